// The steps of cleaning, and that each is reported.
#include <map>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/population.hpp"
#include "intake/import_report.hpp"
#include "intake/join/value_groups.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

const std::string kColumns = "order_id,order_date,customer_id,product_id,quantity,unit_price";

std::string told(const ImportRun& run) {
  std::string text;
  for (const intake::ChangedCell& cell : run.changed)
    text +=
        fmt::format("{} {} {}: [{}] to [{}]\n", cell.line, cell.step, cell.column, cell.before, cell.after);
  return text;
}

TEST(Cleaning, ReportsEveryChangedCell) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               kColumns +
                   ",region,town\nA1,2024-01-01, C1,P1,1,2,NORTH ,N/A\nA2,2024-01-02,c1,P1,1,2,North,x\n"
                   "A3,2024-01-03,C1,P1,bad,2,North , y\nA4,2024-01-04,C1,P1,1,2,Nrth,z\n");
  const ImportRun run = import_intake(folder, R"([lines]
file = "lines.csv"
trim = ["customer_id", "region"]
empty_as = "N/A"
fold_case = ["customer_id", "region"]
[lines.replace.region]
Nrth = "North"
)");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(
      told(run),
      "2 trim customer_id: [ C1] to [C1]\n2 trim region: [NORTH ] to [NORTH]\n2 empty_as town: [N/A] to []\n"
      "5 replace region: [Nrth] to [North]\n3 fold_case customer_id: [c1] to [C1]\n"
      "2 fold_case region: [NORTH] to [North]\n");
  EXPECT_EQ(column_text(run.imported->built.daybook, "region"), "customer North");
  EXPECT_EQ(column_text(run.imported->built.daybook, "town"), "order  x z");
  std::map<std::string, std::uint64_t> cells;
  for (const intake::CleaningTally& tally : run.imported->cleaned) cells[tally.step] += tally.cells;
  EXPECT_EQ(cells, (std::map<std::string, std::uint64_t>{
                       {"trim", 2}, {"empty_as", 1}, {"replace", 1}, {"fold_case", 2}}));
}

/// The rule in plain code: of the rows that agree in order and product, the first by price is kept.
RC_GTEST_PROP(Duplicates, EqualTheSlowTwin, ()) {
  const Sales sales = random_sales();
  const bool last = pick(0, 1) == 1;
  std::map<std::string, std::size_t> stays;
  for (std::size_t i = 0; i < sales.size(); ++i) {
    const std::string key = sales[i].order_id + "|" + sales[i].product_id;
    const auto [found, is_new] = stays.try_emplace(key, i);
    const std::int64_t known = sales[found->second].unit_price;
    if (!is_new && (last ? sales[i].unit_price >= known : sales[i].unit_price < known)) found->second = i;
  }
  Sales expected;
  for (std::size_t i = 0; i < sales.size(); ++i) {
    if (stays.at(sales[i].order_id + "|" + sales[i].product_id) == i) expected.push_back(sales[i]);
  }
  const TemporaryFolder folder;
  folder.write("lines.csv", to_csv(sales));
  const ImportRun run = import_intake(
      folder,
      fmt::format(
          "[lines]\nfile = \"lines.csv\"\n[[duplicates]]\nsame = [\"order_id\", \"lower(product_id)\"]\n"
          "keep = \"{} by unit_price\"\n",
          last ? "last" : "first"));
  RC_ASSERT(run.imported.has_value());
  RC_ASSERT(run.imported->built.daybook.parts() == build(expected).daybook.parts());
  std::size_t dropped = 0;
  std::set<std::uint64_t> groups;
  for (const intake::DuplicateRow& row : run.imported->duplicates) {
    dropped += row.rank > 1 ? 1U : 0U;
    groups.insert(row.group);
  }
  RC_ASSERT(dropped == sales.size() - expected.size());
  RC_ASSERT(run.imported->duplicates.size() == dropped + groups.size());
  for (const result::Check& check :
       intake::report_import(*run.imported, analysis::population_of(run.imported->built.daybook)).checks)
    RC_ASSERT(check.holds);
}

TEST(Duplicates, EmptyValuesAreNeverDuplicates) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               kColumns +
                   ",email\nA1,2024-01-01,C1,P1,1,2,\nA2,2024-01-02,C1,P1,1,2,\nA3,2024-01-02,C1,P1,1,2,X@b\n"
                   "A4,2024-01-02,C1,P1,1,2,x@B\n");
  const ImportRun run =
      import_intake(folder, "[lines]\nfile = \"lines.csv\"\n[[duplicates]]\nsame = \"lower(email)\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(run.imported->built.daybook.lines(), 3U);
  EXPECT_EQ(run.imported->duplicates[1].same, "x@b");
  EXPECT_EQ(run.imported->duplicates[1].line, 5U);
}

TEST(Rules, RejectRowsThatFailAndMarkReturns) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "order_id,product_id,quantity,unit_price\nA1,P1,0,2\nA1,P2,3,2\nA2,P1,1,5\nA2,P2,-1,5\n");
  folder.write("orders.csv",
               "order_id,order_date,customer_id,kind\nA1,2024-01-01,C1,sale\nA2,2024-01-02,C1,credit\n");
  const ImportRun run = import_intake(folder, R"x([lines]
file = "lines.csv"
[orders]
file = "orders.csv"
[[require]]
condition = "quantity <> 0"
reason = "nothing was sold"
[[require]]
condition = "NOT (kind = 'credit' AND unit_price > 5)"
[returns]
condition = "kind = 'credit'"
)x");
  ASSERT_TRUE(run.imported) << run.fault;
  ASSERT_EQ(run.rejected.size(), 1U);
  EXPECT_EQ(run.rejected[0].column + " " + run.rejected[0].value + " " + run.rejected[0].reason,
            "quantity 0 nothing was sold");
  EXPECT_EQ(column_text(run.imported->built.daybook, "is_return"), "line false true true");
  EXPECT_EQ(column_text(run.imported->built.daybook, "quantity"), "line 3 -1 -1");  // P1 was positive
  EXPECT_EQ(column_text(run.imported->built.daybook, "amount"), "line 6 -5 -5");
  EXPECT_EQ(run.imported->notes, (std::vector<std::string>{"1 return by [returns] condition had a positive "
                                                           "quantity and amount; both are now negative."}));
  EXPECT_EQ(import_intake(folder,
                          "[lines]\nfile = \"lines.csv\"\n[orders]\nfile = \"orders.csv\"\n"
                          "[[require]]\ncondition = \"knd = 'x'\"\n")
                .fault,
            "[[require]] in lines: there is no column \"knd\". Did you mean \"kind\"? (column 1)");
}

TEST(Customers, KeepsTheNewestRowAndSeparatesNamesakes) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               kColumns + "\nA1,2024-01-01,C1,P1,1,2\nA2,2024-01-01,C2,P1,1,2\nA3,2024-01-01,C3,P1,1,2\n");
  folder.write("customers.csv",
               "customer_id,name,email,town,changed\nC1,Ada Fern,a@x,Newtown,02.03.2024\nC1,Ada "
               "Fern,a@x,Oldtown,05.11.2023\n"
               "C2,ADA FERN,b@x,Ashmere,01.01.2020\nC3,Bo Reed,A@x,Ashmere,01.01.2020\n");
  const std::string intake =
      "[lines]\nfile = \"lines.csv\"\n[customers]\nfile = \"customers.csv\"\ndate_format = \"%d.%m.%Y\"\n"
      "latest_by = \"changed\"\n";
  const ImportRun run = import_intake(folder, intake);
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "town"), "customer Newtown Ashmere Ashmere");
  ASSERT_EQ(run.imported->changed_customers.size(), 2U);
  EXPECT_EQ(run.imported->changed_customers[0].before, "Oldtown");
  ASSERT_EQ(run.imported->shared_names.size(), 1U);
  EXPECT_EQ(run.imported->shared_names[0].customer_ids, (std::vector<std::string>{"C1", "C2"}));
  ASSERT_EQ(run.imported->shared_emails.size(), 1U);
  EXPECT_EQ(run.imported->shared_emails[0].customer_ids, (std::vector<std::string>{"C1", "C3"}));

  const ImportRun merged =
      import_intake(folder, intake + "[[same_customer]]\nid = \"C1\"\nalso = [\"C3\"]\n");
  ASSERT_TRUE(merged.imported) << merged.fault;
  EXPECT_EQ(merged.imported->built.daybook.customers(), 2U);
  EXPECT_TRUE(merged.imported->shared_emails.empty());
}

TEST(Groups, GroupsCombineValuesAndBandsCombineNumbers) {
  const TemporaryFolder folder;
  folder.write(
      "lines.csv",
      kColumns +
          ",segment,weight\nA1,2024-01-01,C1,P1,-1,2,knitter,0.5\nA2,2024-01-01,C2,P1,5,2,school,1.5\n"
          "A3,2024-01-01,C3,P1,24,2,club,\n");
  const ImportRun run = import_intake(folder, R"([lines]
file = "lines.csv"
[groups.kind]
from = "segment"
private = ["knitter"]
trade = ["school", "workroom"]
[groups.kind_or_other]
from = "segment"
private = "knitter"
other = "rest"
[bands.pieces]
from = "quantity"
edges = [1, 6, 24]
[bands.heavy]
from = "weight"
edges = [1]
)");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(columns_by_name(run.imported->built.daybook, {"kind", "kind_or_other", "pieces", "heavy"}),
            "kind: customer private trade club\nkind_or_other: customer private rest rest\n"
            "pieces: customer below 1 1 to 5 24 or more\nheavy: customer below 1 1 or more \n");
  ASSERT_EQ(run.imported->ungrouped.size(), 3U);
  EXPECT_EQ(run.imported->ungrouped[0].value, "club");
  EXPECT_EQ(intake::band_names({Decimal::from_units(5'000), Decimal::from_units(25'000)}, false),
            (std::vector<std::string>{"below 0.5", "0.5 to under 2.5", "2.5 or more"}));
}

TEST(Currency, RejectsTwoAndKeepsOne) {
  const TemporaryFolder folder;
  folder.write("lines.csv", kColumns +
                                ",currency\nA1,2024-01-01,C1,P1,1,2,EUR\nA2,2024-01-01,C2,P1,1,2,USD\nA3,"
                                "2024-01-01,C2,P1,1,2,EUR\n");
  const std::string intake = "[lines]\nfile = \"lines.csv\"\n";
  EXPECT_EQ(
      import_intake(folder, intake).fault,
      "the lines are in 2 currencies: EUR (2 lines), USD (1 line). A daybook has one; keep one of them with "
      "[[require]] condition = \"currency = 'EUR'\".");
  const std::string keep = intake + "[[require]]\ncondition = \"currency = 'EUR'\"\n";
  EXPECT_EQ(import_intake(folder, keep).imported->currency, "EUR");
  EXPECT_EQ(import_intake(folder, keep + "[shop]\ncurrency = \"CHF\"\n").fault,
            "the lines are in EUR (2 lines), and [shop] currency says \"CHF\".");
}

TEST(Levels, ReportsNearlyConstantColumnsAndAcceptsALevel) {
  std::string text = kColumns + ",region\n";
  for (int i = 0; i < 250; ++i) {
    for (int order = 0; order < 2; ++order)
      text += fmt::format("A{0}-{1},2024-01-0{2},C{0},P1,1,2,{3}\n", i, order, order + 1,
                          i == 7 && order == 0 ? "East" : "North");
  }
  const TemporaryFolder folder;
  folder.write("lines.csv", text);
  const ImportRun run = import_intake(folder, "[lines]\nfile = \"lines.csv\"\n");
  EXPECT_EQ(run.imported->built.daybook.find("region")->level, daybook::Level::order);
  EXPECT_EQ(run.imported->notes,
            (std::vector<std::string>{
                "region is the same on all lines of 99.6% of the customers; it is kept per order. [levels] "
                "region = \"customer\" would give each customer its latest value."}));
  const ImportRun settled =
      import_intake(folder, "[lines]\nfile = \"lines.csv\"\n[levels]\nregion = \"customer\"\n");
  const daybook::Daybook& book = settled.imported->built.daybook;
  EXPECT_EQ(column_text(book, "region").find("East"), std::string::npos) << "the latest counts";
  EXPECT_EQ(settled.imported->notes,
            (std::vector<std::string>{
                "1 customer had more than one region; the latest is used, as [levels] requests."}));
}

}  // namespace
}  // namespace pear::test
