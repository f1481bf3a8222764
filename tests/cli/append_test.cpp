// What import --append says of the lines, lists and levels that it joins.
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include "support/import_reports.hpp"
#include "support/run_program.hpp"

namespace pear::test {
namespace {

/// A shop of lines-*.csv and customers.csv in a folder of its own.
class Append : public testing::Test {
 protected:
  void SetUp() override {
    folder_.write(
        "shop.toml",
        "[lines]\nfile = \"lines-*.csv\"\ncolumns = { order_id = \"Order\", order_date = \"Date\", "
        "customer_id = \"Customer\", "
        "product_id = \"Product\", quantity = \"Qty\", unit_price = \"Price\", channel = \"Channel\" }\n"
        "[customers]\nfile = \"customers.csv\"\ncolumns = { customer_id = \"Customer\", region = \"Region\" "
        "}\n");
    customers("C1,North\nC2,South\n");
    ASSERT_EQ(
        add("1", "A1,2024-01-05,C1,P1,1,10,web\nA1,2024-01-05,C1,P2,1,5,web\nA2,2024-01-09,C2,P1,2,10,shop\n",
            {})
            .exit_code,
        0);
  }

  void customers(const std::string& rows) { folder_.write("customers.csv", "Customer,Region\n" + rows); }

  /// Imports one more file of lines.
  ProgramRun add(const std::string& name, const std::string& rows,
                 const std::vector<std::string>& options = {"--append"}) {
    folder_.write("lines-" + name + ".csv", "Order,Date,Customer,Product,Qty,Price,Channel\n" + rows);
    std::vector<std::string> words = {"import", "shop.toml"};
    words.insert(words.end(), options.begin(), options.end());
    return run_pear(folder_, words);
  }

  /// The paragraphs that begin with Note, each on one line.
  static std::vector<std::string> notes_of(const ProgramRun& run) {
    std::vector<std::string> notes;
    std::istringstream lines(run.out);
    bool in_note = false;
    for (std::string line; std::getline(lines, line);) {
      const bool begins = line.starts_with("Note ");
      in_note = begins || (in_note && line.starts_with("     "));
      if (!in_note) continue;
      const std::string text = line.substr(begins ? 12 : line.find_first_not_of(' '));
      begins ? notes.push_back(text) : void(notes.back() += " " + text);
    }
    return notes;
  }

  TemporaryFolder folder_;
};

using Texts = std::vector<std::string>;

TEST_F(Append, SaysNothingMoreWhereNothingChanged) {
  const ProgramRun run = add("2", "A3,2024-02-01,C1,P1,1,10,web\n");
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(run.out.find("1 line was added to shop.daybook, which now has 4 lines.\n"), std::string::npos)
      << run.out;
  EXPECT_EQ(notes_of(run), Texts{"lines-1.csv is in shop.daybook already, and was skipped."});
}

TEST_F(Append, ReportsChangedMembersAndLevels) {
  customers("C1,East\nC2,South\nC3,West\n");
  const ProgramRun run = add("2", "A2,2024-01-09,C2,P3,2,10,web\nA4,2024-02-02,C3,P1,1,11,web\n");
  EXPECT_EQ(notes_of(run), (Texts{"lines-1.csv is in shop.daybook already, and was skipped.",
                                  "With the new lines, these columns are no longer constant at their level: "
                                  "channel (now of each line).",
                                  "1 value of customers and products changed; the new ones count."}));
  // The region of C1, who is in no new line, is the new one in all of their lines.
  const ProgramRun regions = run_pear(
      folder_, {"crosstab", "shop.daybook", "--down", "region", "--count", "lines", "--figure", "none"});
  EXPECT_NE(regions.out.find("  East        2\n  South       2\n  West        1\n"), std::string::npos)
      << regions.out;
}

TEST_F(Append, KeepsTheLinesOfAnOrderThatAnotherCustomerHasToo) {
  const ProgramRun run = add("2", "A1,2024-03-01,C2,P1,1,10,web\n", {"--append"});
  EXPECT_NE(run.out.find("which now has 4 lines.\n"), std::string::npos) << run.out;
  const ProgramRun status = run_pear(folder_, {"status", "shop.daybook"});
  EXPECT_NE(status.out.find("3 orders"), std::string::npos) << status.out;
}

TEST_F(Append, LeavesOutLinesThatAreThereAlready) {
  const ProgramRun run = add("2", "A2,2024-01-09,C2,P1,2,10,shop\nA5,2024-02-02,C2,P1,1,11,web\n");
  EXPECT_NE(run.out.find("1 line was added to shop.daybook, which now has 4 lines.\n"), std::string::npos)
      << run.out;
  EXPECT_EQ(notes_of(run).at(1), "1 line of the new sources was in the daybook already and was left out.");
}

}  // namespace
}  // namespace pear::test
