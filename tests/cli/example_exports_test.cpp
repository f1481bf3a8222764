// The shop of docs/example-exports, from the raw files to totals that an independent script computes, too.
#include <filesystem>
#include <map>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include "storage/daybook_reader.hpp"
#include "support/csv_rows.hpp"
#include "support/import_reports.hpp"
#include "support/other_programs.hpp"
#include "support/run_program.hpp"

namespace pear::test {
namespace {

using Totals = std::map<std::string, std::string>;

class ExampleExports : public testing::Test {
 protected:
  ExampleExports() {
    std::filesystem::copy(PEAR_DOCS "/example-exports", folder_ / "",
                          std::filesystem::copy_options::recursive);
  }

  ProgramRun pear(const std::vector<std::string>& words) {
    ProgramRun run = run_pear(folder_, words);
    EXPECT_EQ(run.exit_code, 0) << run.err;
    return run;
  }

  /// What inspect writes, with the # signs removed from three blocks.
  std::string edited_starter() {
    std::vector<std::string> words = {"inspect"};
    for (const char* file : {"web-2024-10.csv", "web-2024-11.csv", "counter.xlsx", "customers.csv",
                             "products.csv", "price-list.csv"})
      if (std::filesystem::exists(folder_ / file)) words.emplace_back(file);
    words.insert(words.end(), {"--write", "shop.toml"});
    pear(words);
    std::string text = read_file(folder_ / "shop.toml");
    for (const char* block : {"# [returns]", "# [fees]", "# [[exclude]]"}) {
      std::size_t at = text.find(block);
      EXPECT_NE(at, std::string::npos) << block << "\n" << text;
      while (text.compare(at, 2, "# ") == 0) {
        text.erase(at, 2);
        at = text.find('\n', at) + 1;
      }
    }
    return text;
  }

  nlohmann::json expected(const std::string& last_month = "11") {
    const OtherRun run = run_other("/usr/bin/python3 '" PEAR_TESTS "/cli/example_totals.py' '" +
                                   folder_.path() + "' " + last_month);
    EXPECT_EQ(run.exit_code, 0) << run.err;
    return nlohmann::json::parse(run.out);
  }

  /// A crosstab of two columns, the total left out.
  Totals crosstab(const std::string& down, const std::string& show) {
    pear({"crosstab", "shop.daybook", "--down", down, "--count", show + " as figure", "--figure", "none"});
    Totals totals;
    for (const auto& row : rows_of(folder_ / "pear-out/crosstab.csv"))
      if (row.at(down) != "Total") totals[row.at(down)] = row.at("figure");
    return totals;
  }

  void expect_totals(const nlohmann::json& totals) {
    EXPECT_EQ(crosstab("month", "SUM(amount)"), totals["by_month"].get<Totals>());
    EXPECT_EQ(crosstab("customer_id", "SUM(amount)"), totals["by_customer"].get<Totals>());
    Totals products = crosstab("product_id", "SUM(quantity)");
    products.erase("FREIGHT");
    products.erase("PFAND");
    EXPECT_EQ(products, totals["by_product"].get<Totals>());
    const char* const figures[][2] = {{"lines", "COUNT(*)"},
                                      {"returns", "COUNT(*) FILTER (WHERE is_return)"},
                                      {"amount", "SUM(amount)"},
                                      {"fees", "SUM(amount) FILTER (WHERE is_fee)"},
                                      {"orders", "orders"},
                                      {"customers", "customers"},
                                      {"at_list_price", "SUM(quantity * list_price)"}};
    for (const auto& [name, figure] : figures) {
      pear({"crosstab", "shop.daybook", "--down", "'all' as everything", "--count",
            std::string(figure) + " as figure", "--figure", "none"});
      EXPECT_EQ(rows_of(folder_ / "pear-out/crosstab.csv").front().at("figure"), totals["totals"][name])
          << name;
    }
  }

  const TemporaryFolder folder_;
};

TEST_F(ExampleExports, ThreeEditsOfTheStarterGiveTheTotalsOfAnIndependentScript) {
  folder_.write("shop.toml", edited_starter());
  const ProgramRun run = pear({"import", "shop.toml"});
  EXPECT_NE(run.out.find("37 rows were excluded and none were rejected"), std::string::npos) << run.out;
  expect_totals(expected());
}

TEST_F(ExampleExports, TheNextMonthIsAppendedByTheSameIntakeFile) {
  std::filesystem::rename(folder_ / "web-2024-11.csv", folder_ / "later");
  std::string intake = edited_starter();
  const std::string file = "file = \"web-2024-10.csv\"";
  ASSERT_NE(intake.find(file), std::string::npos) << intake;
  intake.replace(intake.find(file), file.size(), "file = \"web-2024-*.csv\"");
  const std::string lines = "[lines]   # exports in different forms; each has its own keys below\n";
  ASSERT_NE(intake.find(lines), std::string::npos) << intake;
  intake.insert(intake.find(lines) + lines.size(), "on_repeat = \"replace orders\"\n");
  folder_.write("shop.toml", intake);
  pear({"import", "shop.toml"});
  expect_totals(expected("10"));
  const std::string october = storage::DaybookFile::open(folder_ / "shop.daybook")->info().fingerprint;

  std::filesystem::rename(folder_ / "later", folder_ / "web-2024-11.csv");
  const ProgramRun run = pear({"import", "shop.toml", "--append"});
  EXPECT_NE(run.out.find("4 orders were in the daybook already and were replaced (15 lines); 3 changed."),
            std::string::npos)
      << run.out;
  EXPECT_NE(run.out.find("counter.xlsx is in shop.daybook already, and was skipped."), std::string::npos)
      << run.out;
  expect_totals(expected());
  const std::string both = storage::DaybookFile::open(folder_ / "shop.daybook")->info().fingerprint;
  const std::string status = pear({"status", "shop.daybook"}).out;
  EXPECT_NE(status.find("Import 2    pear-thread import shop.toml: 315 lines added, 15 replaced, 980 in all"),
            std::string::npos)
      << status;

  EXPECT_EQ(pear({"import", "--undo", "shop.daybook"}).out,
            "The last import into shop.daybook was undone: it has 680 lines again, instead of 980.\n");
  EXPECT_EQ(storage::DaybookFile::open(folder_ / "shop.daybook")->info().fingerprint, october);
  const ProgramRun again = run_pear(folder_, {"import", "--undo", "shop.daybook"});
  EXPECT_EQ(again.exit_code, 3);
  EXPECT_NE(again.err.find("the last import into shop.daybook cannot be undone"), std::string::npos)
      << again.err;
  pear({"import", "shop.toml", "--daybook", "whole.daybook"});
  EXPECT_EQ(storage::DaybookFile::open(folder_ / "whole.daybook")->info().fingerprint, both)
      << "appended or imported at once, it is the same daybook";
}

}  // namespace
}  // namespace pear::test
