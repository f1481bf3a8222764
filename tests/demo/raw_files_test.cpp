// The import of the demo's four files finds what was planted, and nothing else.
#include "demo/raw_files.hpp"

#include <map>

#include <gtest/gtest.h>

#include "demo/sales_file.hpp"
#include "intake/inspect/inspection.hpp"
#include "support/importing.hpp"

namespace pear::demo {
namespace {

using test::column_text;

class RawFiles : public testing::Test {
 protected:
  RawFiles() : shop_(make_shop({})) {
    write("order-lines.csv", write_order_lines);
    write("orders.csv", write_orders);
    write("customers.csv", write_customers);
    write("products.csv", write_products);
  }
  template <class Make>
  void write(const char* name, Make make) {
    std::string text;
    EXPECT_TRUE(make(shop_, [&](std::string_view part) -> OrError<void> {
      text += part;
      return {};
    }));
    folder_.write(name, text);
  }
  test::TemporaryFolder folder_;
  Shop shop_;
};

TEST_F(RawFiles, EveryPlantedFaultIsFoundAndNothingElse) {
  const PlantedFaults planted = planted_faults(shop_);
  const test::ImportRun run = import_intake(folder_, std::string(intake_file()));
  ASSERT_TRUE(run.imported) << run.fault;
  const intake::Imported& found = *run.imported;

  std::size_t dropped = 0;
  for (const intake::DuplicateRow& row : found.duplicates) dropped += row.rank > 1 ? 1U : 0U;
  EXPECT_EQ(dropped, planted.reexported_lines);
  std::map<std::string, std::size_t> reasons, cells, unmatched;
  for (const intake::RejectedRow& row : run.rejected) ++reasons[row.reason];
  EXPECT_EQ(reasons, (std::map<std::string, std::size_t>{
                         {"is a day that does not exist", planted.impossible_dates},
                         {"is empty", planted.missing_customers},
                         {"has no row in orders", planted.impossible_dates + planted.missing_customers}}));
  for (const intake::ChangedCell& cell : run.changed) ++cells[cell.column + " " + std::string(cell.step)];
  EXPECT_EQ(cells, (std::map<std::string, std::size_t>{{"customer_id trim", planted.spaced_ids},
                                                       {"customer_id fold_case", planted.lower_case_ids},
                                                       {"region trim", planted.spaced_regions},
                                                       {"region fold_case", planted.upper_case_regions}}));
  for (const intake::UnmatchedKey& key : found.unmatched)
    unmatched[std::string(intake::to_text(key.table)) + " not in " +
              std::string(intake::to_text(key.missing_in))] += key.rows;
  EXPECT_EQ(unmatched, (std::map<std::string, std::size_t>{
                           {"lines not in orders", planted.impossible_dates + planted.missing_customers},
                           {"lines not in products", planted.lines_of_unlisted}}));
  std::map<std::string, std::size_t> moved;
  for (const intake::ChangedCustomer& change : found.changed_customers) ++moved[change.customer_id];
  EXPECT_EQ(moved.size(), planted.moved_customers);
  EXPECT_EQ(found.shared_names.size(), planted.namesakes);
  EXPECT_EQ(found.shared_emails.size(), planted.shared_emails);
  EXPECT_TRUE(found.ungrouped.empty());
  EXPECT_EQ(found.notes.size(), 2U) << "the blank header, and the encoding";
}

TEST_F(RawFiles, GiveTheDaybookOfTheCleanFile) {
  const test::ImportRun four = import_intake(folder_, std::string(intake_file()));
  std::string text;
  ASSERT_TRUE(write_sales(shop_, [&](std::string_view part) -> OrError<void> {
    text += part;
    return {};
  }));
  const test::ImportRun flat = test::import_text(text);
  ASSERT_TRUE(four.imported && flat.imported) << four.fault << flat.fault;
  const daybook::Daybook& a = four.imported->built.daybook;
  const daybook::Daybook& b = flat.imported->built.daybook;
  EXPECT_TRUE(a.customer_ids() == b.customer_ids());
  EXPECT_TRUE(a.order_ids() == b.order_ids());
  EXPECT_TRUE(a.product_ids() == b.product_ids());
  EXPECT_TRUE(a.parts().order_offsets == b.parts().order_offsets);
  EXPECT_TRUE(a.parts().line_offsets == b.parts().line_offsets);
  EXPECT_TRUE(a.parts().line_products == b.parts().line_products);
  for (const daybook::Column& column : b.parts().columns)
    EXPECT_TRUE(column_text(a, column.name) == column_text(b, column.name)) << column.name;
}

TEST_F(RawFiles, InspectGuessesAnIntakeFileThatImportsThem) {
  std::vector<sources::TableAddress> sources(4);
  const char* names[] = {"orders.csv", "order-lines.csv", "customers.csv", "products.csv"};
  for (std::size_t i = 0; i < 4; ++i) sources[i].file = folder_ / names[i];
  const intake::Inspection seen = *intake::inspect_sources(sources, [](const intake::ImportProgress&) {});
  ASSERT_TRUE(seen.trial.has_value()) << seen.no_trial;
  const std::size_t again = planted_faults(shop_).reexported_lines;
  EXPECT_EQ(seen.trial->built.daybook.lines(), shop_.lines.size() + again)
      << "which rows are duplicates, only people know";
  EXPECT_EQ(seen.profiles[1].repeated_rows, again);
}

}  // namespace
}  // namespace pear::demo
