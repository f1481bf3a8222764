// An import in parts gives the daybook and the report of an import of all rows at once.
#include <algorithm>
#include <optional>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/population.hpp"
#include "base/varint.hpp"
#include "intake/import_report.hpp"
#include "intake/importing.hpp"
#include "intake/parts/import_in_parts.hpp"
#include "intake/plan/intake_file.hpp"
#include "result/cell_text.hpp"
#include "storage/daybook_reader.hpp"
#include "storage/daybook_writer.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// Raw files with all kinds of mess, and the intake file over them.
class MessyShop {
 public:
  explicit MessyShop(const TemporaryFolder& folder) : folder_(folder) {
    write_lines();
    if (with_orders_) write_orders();
    write_lists();
    write_rules();
  }
  [[nodiscard]] const std::string& intake() const { return intake_; }

 private:
  static bool rarely() { return pick(0, 14) == 0; }
  static std::string spaced(const std::string& text) { return rarely() ? " " + text + " " : text; }
  [[nodiscard]] std::string price() const {
    return fmt::format("{}{}{:02}", pick(1, 30), decimal_, 25 * pick(0, 3));
  }
  static std::string date() {
    if (rarely()) return "2024-13-01";
    return fmt::format("2024-{:02}-{:02}{}", pick(1, 12), pick(1, 28), pick(0, 3) == 0 ? " 10:30" : "");
  }
  static std::string order() { return fmt::format("A{}", pick(1, 25)); }
  static std::string customer() {
    return spaced(fmt::format("{}{}", pick(0, 5) == 0 ? "c" : "C", pick(1, 9)));
  }
  static std::string product() { return fmt::format("P{}", pick(1, 9)); }

  void write_lines() {
    const int files = pick(1, 3);
    std::string names;
    for (int file = 1; file <= files; ++file) {
      std::string text = "order_id;product_id;quantity;unit_price;weight;sent;note";
      text += with_orders_ ? "\n" : ";order_date;customer_id\n";
      std::vector<std::string> rows;
      for (int i = pick(1, 25); i > 0; --i) {
        if (!rows.empty() && pick(0, 5) == 0) {  // exported again
          rows.push_back(rows[static_cast<std::size_t>(pick(0, static_cast<int>(rows.size()) - 1))]);
          continue;
        }
        std::string row = fmt::format(
            "{};{};{};{};{};{};{}", rarely() ? "" : order(), product(),
            rarely() ? "many" : std::to_string(pick(-2, 9)) + (pick(0, 60) == 0 ? decimal_ + "5" : ""),
            price(), pick(0, 40) == 0 ? "heavy" : price(), pick(0, 40) == 0 ? "soon" : "03.05.2024",
            pick(0, 2) == 0 ? "" : fmt::format("{}{}", pick(0, 3) == 0 ? "N" : "n", pick(1, 4)));
        if (!with_orders_) row += ";" + date() + ";" + customer();
        rows.push_back(row);
      }
      for (const std::string& row : rows) text += row + "\n";
      folder_.write(fmt::format("lines-{}.csv", file), text);
      names += fmt::format("{}\"lines-{}.csv\"", names.empty() ? "" : ", ", file);
    }
    intake_ += fmt::format("[lines]\nfile = [{}]\ndecimal = \"{}\"\ntrim = true\n", names, decimal_);
    if (pick(0, 2) == 0) intake_ += "on_repeat = \"replace orders\"\n";
    intake_ += "date_format = [\"%Y-%m-%d\", \"%Y-%m-%d %H:%M\", \"%d.%m.%Y\"]\n";
    if (with_folding_)
      intake_ += with_orders_ ? "fold_case = \"note\"\n" : "fold_case = [\"note\", \"customer_id\"]\n";
    if (pick(0, 1) == 1) intake_ += "[lines.compute]\nper_piece = \"unit_price / quantity\"\n";
  }

  void write_orders() {
    std::string text = "order_id,order_date,customer_id,channel,currency\n";
    for (int i = 1; i <= 25; ++i) {
      if (rarely()) continue;
      text += fmt::format("A{},{},{},{},EUR\n", i, date(), customer(), pick(0, 1) == 1 ? "web" : "shop");
    }
    folder_.write("orders.csv", text);
    intake_ +=
        "[orders]\nfile = \"orders.csv\"\ntrim = true\ndate_format = [\"%Y-%m-%d\", \"%Y-%m-%d %H:%M\"]\n";
    if (with_folding_) intake_ += "fold_case = \"customer_id\"\n";
  }

  void write_lists() {
    if (pick(0, 1) == 1) {
      std::string text = "product_id,category,unit_cost\n";
      for (int i = 1; i <= 11; ++i)
        if (!rarely()) text += fmt::format("P{},k{},{}.5\n", i, pick(1, 4), pick(1, 9));
      folder_.write("products.csv", text);
      intake_ += "[products]\nfile = \"products.csv\"\n";
      if (pick(0, 1) == 1) intake_ += "[groups.kind]\nfrom = \"category\"\nfirst = [\"k1\", \"k2\"]\n";
    }
    if (pick(0, 1) == 1) {
      std::string text = "customer_id,customer_name,region\n";
      for (int i = 1; i <= 11; ++i)
        for (int again = pick(1, 5) == 1 ? 2 : 1; again > 0; --again)
          text += fmt::format("C{},name {},r{}\n", i, pick(1, 8), pick(1, 3));
      folder_.write("customers.csv", text);
      intake_ += "[customers]\nfile = \"customers.csv\"\n";
    }
    if (pick(0, 2) == 0) {
      std::string text = "product_id,list_price,valid_from\n";
      for (int i = 1; i <= 10; ++i)
        if (pick(0, 4) > 0) text += fmt::format("P{0},{1},2024-01-01\nP{0},{2},2024-06-01\n", i, i, i + 1);
      folder_.write("prices.csv", text);
      intake_ += "[prices]\nfile = \"prices.csv\"\n";
    }
  }

  void write_rules() {
    if (pick(0, 1) == 1)
      intake_ += "[[duplicates]]\nin = \"lines\"\nsame = [\"order_id\", \"product_id\", \"note\"]\n";
    if (pick(0, 2) == 0)
      intake_ +=
          "[[duplicates]]\nin = \"lines\"\nsame = [\"order_id\", \"product_id\"]\nkeep = \"last by "
          "quantity\"\n";
    if (pick(0, 2) == 0)
      intake_ += "[[require]]\nin = \"lines\"\ncondition = \"quantity < 9\"\nreason = \"too many\"\n";
    if (pick(0, 2) == 0) intake_ += "[[exclude]]\ncondition = \"note = 'n1'\"\nreason = \"a test\"\n";
    if (pick(0, 2) == 0) intake_ += "[groups.mark]\nfrom = \"note\"\nsome = [\"n1\", \"n2\"]\n";
    if (pick(0, 2) == 0) intake_ += "[returns]\ncondition = \"note = 'n4'\"\n";
    if (pick(0, 2) == 0) intake_ += "[fees]\ncondition = \"product_id = 'P3'\"\n";
    if (pick(0, 2) == 0) intake_ += "[[same_customer]]\nid = \"C1\"\nalso = [\"C2\"]\n";
    if (pick(0, 1) == 0)
      intake_ +=
          "[bands.size]\nfrom = \"quantity\"\nedges = [2, 4]\n[[exclude]]\ncondition = \"size = '2 to "
          "3'\"\nreason = \"small\"\n";
    if (pick(0, 3) == 0) intake_ += "[levels]\nnote = \"product\"\n";
  }

  const TemporaryFolder& folder_;
  std::string decimal_ = pick(0, 1) == 1 ? "," : ".";
  bool with_orders_ = pick(0, 1) == 1;
  bool with_folding_ = pick(0, 1) == 1;
  std::string intake_;
};

std::string rows_of(const result::Table& table) {
  std::string all = table.part + ":\n";
  for (std::size_t row = 0; row < table.rows(); ++row) {
    for (const result::TableColumn& column : table.columns) all += result::cell_text(column, row) + "|";
    all += "\n";
  }
  return all;
}

std::string report_of(const intake::Imported& imported, const result::Population& population) {
  const result::Result report = intake::report_import(imported, population);
  std::string text = fmt::format("{} {} {} {}\n", imported.currency, population.customers, population.orders,
                                 population.lines);
  for (const std::string& sentence : report.headline) text += sentence + "\n";
  for (const result::Table& table : report.tables) text += rows_of(table);
  for (const std::string& note : report.notes) text += note + "\n";
  for (const result::Check& check : report.checks)
    text += fmt::format("{} {}\n", check.statement, check.holds);
  for (const daybook::MemberList& list : imported.waiting)
    for (std::size_t i = 0; i < list.ids.size(); ++i) text += fmt::format("waiting {}\n", list.ids[i]);
  return text;
}

intake::ImportHooks silent_hooks() {
  return {[](const intake::RejectedRow&) -> OrError<void> { return {}; },
          [](const intake::ChangedCell&) -> OrError<void> { return {}; },
          [](const intake::ImportProgress&) {}};
}

RC_GTEST_PROP(ImportInParts, GivesTheSameAsAnImportAtOnce, ()) {
  const TemporaryFolder folder;
  const MessyShop shop(folder);
  const auto read = intake::read_intake_file(folder.write("shop.toml", shop.intake()));
  RC_LOG() << (read ? "" : read.error().message);
  RC_ASSERT(read.has_value());
  const intake::IntakePlan& plan = *read;
  const auto at_once = intake::import_tables(plan, silent_hooks());

  storage::SortedRuns runs(folder.path());
  auto imported = intake::import_in_parts(
      plan, silent_hooks(), {folder.path(), static_cast<std::uint64_t>(pick(0, 1) * 3000)},
      [&](daybook::LineTable lines) { return runs.add(std::move(lines)); });
  RC_LOG() << shop.intake() << (at_once ? "" : at_once.error().message) << "\n"
           << (imported ? "" : imported.error().message);
  RC_ASSERT(at_once.has_value() == imported.has_value());
  if (!at_once) return;
  storage::MergedSales merged = *storage::MergedSales::make(std::move(runs));
  imported->built = merged.take_built();
  intake::describe_built(plan, *imported);

  const auto population = analysis::population_of(at_once->built.daybook);
  result::Population of_parts = population;
  of_parts.orders = merged.totals().orders;
  of_parts.lines = merged.totals().lines;
  of_parts.amount = merged.totals().amount.total();
  const std::string wanted = report_of(*at_once, population), given = report_of(*imported, of_parts);
  RC_LOG() << wanted << "--- in parts:\n" << given;
  RC_ASSERT(given == wanted);
  const auto fingerprint = storage::write_daybook(folder / "whole.daybook", at_once->built.daybook, {});
  auto target = storage::DaybookTarget::lock(folder / "parts.daybook");
  RC_ASSERT(*target->write(merged, imported->built.daybook, {}) == *fingerprint);
}

/// What an import in parts cannot do, with the key of the intake file.
TEST(ImportInParts, RejectsPlansThatCompareOrders) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price,note\n"
               "A1,2024-01-01,C1,P1,1,2,x\n");
  folder.write("orders.csv", "order_id,number\nA1,7\n");
  const auto fault = [&](const std::string& rules) {
    const auto plan =
        intake::read_intake_file(folder.write("shop.toml", "[lines]\nfile = \"lines.csv\"\n" + rules));
    if (!plan) return plan.error().message;
    const auto imported =
        intake::import_in_parts(*plan, silent_hooks(), {folder.path(), 0},
                                [](const daybook::LineTable&) -> OrError<void> { return {}; });
    return imported ? "" : imported.error().message;
  };
  const auto message = [](const std::string& what) {
    return "--memory sorts the orders part by part, and " + what +
           " needs all of them at once. Import without --memory.";
  };
  EXPECT_EQ(fault("fold_case = \"order_id\"\n"), message("fold_case of order_id"));
  EXPECT_EQ(fault("fold_case = \"note\"\n[lines.compute]\nnote = \"'x'\"\n"),
            message("fold_case next to the computed column note"));
  EXPECT_EQ(fault("[[duplicates]]\nin = \"lines\"\nsame = [\"note\"]\n"),
            message("[[duplicates]] in lines without order_id in `same`"));
  EXPECT_EQ(fault("[lines.compute]\norder_id = \"note\"\n"), message("an order_id that is computed"));
}

RC_GTEST_PROP(Varint, ReadsBackWhatWasWritten, ()) {
  const auto values = *rc::gen::arbitrary<std::vector<std::int64_t>>();
  std::string bytes;
  for (const std::int64_t value : values) put_varint(bytes, zigzag(value));
  const char* at = bytes.data();
  for (const std::int64_t value : values) RC_ASSERT(from_zigzag(get_varint(at)) == value);
  RC_ASSERT(at == bytes.data() + bytes.size());
}

}  // namespace
}  // namespace pear::test
