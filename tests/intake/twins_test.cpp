// Steps of the import against their definitions in plain code.
#include <algorithm>
#include <map>
#include <optional>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/natural_order.hpp"
#include "intake/clean/shared_values.hpp"
#include "intake/clean/text_forms.hpp"
#include "intake/join/fill_empty.hpp"
#include "intake/join/value_groups.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

const std::string kLines = "order_id,order_date,customer_id,product_id,quantity,unit_price";

/// A customer has the values of the row with the latest date, or the last of several; older values are
/// reported.
RC_GTEST_PROP(Customers, HaveTheValuesOfTheirNewestRow, ()) {
  struct Written {
    std::string id, town, changed;
  };
  std::vector<Written> rows;
  for (int i = pick(1, 10); i > 0; --i)
    rows.push_back({fmt::format("C{}", pick(1, 4)), fmt::format("T{}", pick(1, 3)),
                    pick(0, 4) == 0 ? "" : fmt::format("2024-01-{:02}", pick(1, 5))});
  const bool by_date = pick(0, 1) == 1;
  std::string customers = "customer_id,town,changed\n", lines = kLines + "\n";
  std::map<std::string, std::size_t> newest;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    customers += rows[i].id + "," + rows[i].town + "," + rows[i].changed + "\n";
    const auto [found, is_new] = newest.emplace(rows[i].id, i);
    const bool is_older =
        by_date && rows[i].changed < rows[found->second].changed;  // no date is older than any
    if (!is_new && !is_older) found->second = i;
  }
  std::string wanted = "customer";
  std::multiset<std::string> changes;
  for (const auto& [id, row] : newest) {
    lines += fmt::format("A{0},2024-01-01,{0},P1,1,2\n", id);
    wanted += " " + rows[row].town;
  }
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const Written& kept = rows[newest[rows[i].id]];
    if (rows[i].town != kept.town)
      changes.insert(fmt::format("{} {} town {} {}", i + 2, rows[i].id, rows[i].town, kept.town));
    if (rows[i].changed != kept.changed)
      changes.insert(fmt::format("{} {} changed {} {}", i + 2, rows[i].id, rows[i].changed, kept.changed));
  }
  const TemporaryFolder folder;
  folder.write("lines.csv", lines);
  folder.write("customers.csv", customers);
  const ImportRun run = import_intake(
      folder, std::string("[lines]\nfile = \"lines.csv\"\n[customers]\nfile = \"customers.csv\"\n") +
                  (by_date ? "latest_by = \"changed\"\n" : ""));
  RC_LOG() << run.fault << customers;
  RC_ASSERT(run.imported.has_value());
  RC_ASSERT(column_text(run.imported->built.daybook, "town") == wanted);
  std::multiset<std::string> given;
  for (const intake::ChangedCustomer& change : run.imported->changed_customers)
    given.insert(fmt::format("{} {} {} {} {}", change.line, change.customer_id, change.column, change.before,
                             change.after));
  RC_ASSERT(given == changes);
}

/// Of spellings that differ only in case, all rows get the one that most rows have, over both tables.
RC_GTEST_PROP(Spelling, IsTheMostFrequentOne, ()) {
  const std::string spellings[] = {"North", "NORTH", "north", "Süd", "SÜD", "East"};
  std::map<std::string, std::map<std::string, int>> rows;  // by folded text
  const auto folded = [](const std::string& text) {
    return text == "Süd" || text == "SÜD" ? "s" : std::string(1, static_cast<char>(text[0] | 0x20));
  };
  std::string lines = kLines + ",region\n";
  std::vector<std::string> written;
  for (int i = pick(1, 12); i > 0; --i) {
    written.push_back(spellings[pick(0, 5)]);
    ++rows[folded(written.back())][written.back()];
    lines += fmt::format("A{},2024-01-01,C1,P{},1,2,{}\n", written.size(), written.size(), written.back());
  }
  std::string wanted, changed;
  for (std::size_t i = 0; i < written.size(); ++i) {
    const std::string* best = nullptr;
    for (const auto& [spelling, count] : rows[folded(written[i])])
      if (best == nullptr || count > rows[folded(written[i])][*best]) best = &spelling;
    wanted += " " + *best;
    if (*best != written[i]) changed += fmt::format("{} {} {};", i + 2, written[i], *best);
  }
  const TemporaryFolder folder;
  folder.write("lines.csv", lines);
  const ImportRun run = import_intake(
      folder, "[lines]\nfile = \"lines.csv\"\nfold_case = \"region\"\n[levels]\nregion = \"line\"\n");
  RC_ASSERT(run.imported.has_value());
  std::map<std::string, std::string> by_product;  // as lines are sorted by order
  std::string given, reported;
  const daybook::Daybook& daybook = run.imported->built.daybook;
  const daybook::Column& region = *daybook.find("region");
  for (std::uint32_t line = 0; line < daybook.lines(); ++line)
    by_product[std::string(daybook.product_ids()[daybook.line_products()[line]])] =
        daybook::value_text(region.values, line);
  for (std::size_t i = 0; i < written.size(); ++i) given += " " + by_product[fmt::format("P{}", i + 1)];
  for (const intake::ChangedCell& cell : run.changed)
    reported += fmt::format("{} {} {};", cell.line, cell.before, cell.after);
  RC_ASSERT(given == wanted);
  RC_ASSERT(reported == changed);
}

/// Each empty member gets the value of its row, of any type, and nothing else changes.
RC_GTEST_PROP(FillEmpty, GivesOnlyEmptyMembersAValue, ()) {
  const int kind = pick(0, 3);
  const auto members = static_cast<std::size_t>(pick(0, 8)), rows = static_cast<std::size_t>(pick(1, 5));
  const auto column_of = [&](std::size_t size) -> daybook::ColumnValues {
    daybook::TextValues texts;
    daybook::DecimalValues numbers;
    daybook::DateValues dates;
    daybook::TimeValues times;
    std::map<std::string, std::uint32_t> codes;
    for (std::size_t i = 0; i < size; ++i) {
      const int value = pick(0, 3);
      const std::string text = fmt::format("t{}", value);
      const auto [found, is_new] = codes.emplace(text, static_cast<std::uint32_t>(codes.size()));
      if (is_new) texts.dictionary.push_back(text);
      texts.codes.push_back(value == 0 ? daybook::kEmptyCode : found->second);
      numbers.units.push_back(value == 0 ? daybook::kEmptyUnits : value);
      dates.days.push_back(value == 0 ? daybook::kEmptyDays : 19'000 + value);
      times.seconds.push_back(value == 0 ? Moment::kNoTime : value);
    }
    if (kind == 0) return texts;
    if (kind == 1) return numbers;
    return kind == 2 ? daybook::ColumnValues(dates) : daybook::ColumnValues(times);
  };
  daybook::ColumnValues ours = column_of(members);
  const daybook::ColumnValues theirs = column_of(rows), before = ours;
  std::vector<std::uint32_t> row_of;
  for (std::size_t i = 0; i < members; ++i)
    row_of.push_back(pick(0, 4) == 0 ? daybook::kNoMember
                                     : static_cast<std::uint32_t>(pick(0, static_cast<int>(rows) - 1)));
  const std::uint64_t filled = intake::fill_empty(ours, theirs, row_of);
  std::uint64_t wanted = 0;
  for (std::size_t i = 0; i < members; ++i) {
    const std::string old = daybook::value_text(before, i);
    const std::string found = row_of[i] == daybook::kNoMember ? "" : daybook::value_text(theirs, row_of[i]);
    RC_ASSERT(daybook::value_text(ours, i) == (old.empty() ? found : old));
    wanted += old.empty() && !found.empty() ? 1U : 0U;
  }
  RC_ASSERT(filled == wanted);
}

/// A column is one of numbers or dates only if all of its texts are, in the format of the source.
RC_GTEST_PROP(TextForm, IsThatOfAllTexts, ()) {
  intake::SourcePlan plan;
  if (pick(0, 1) == 1) plan.numbers.decimal = ',';
  if (pick(0, 1) == 1) plan.dates.formats = {"%d.%m.%Y"};
  const std::vector<std::string> words = {"1,5", "7", "03.05.2024", "007", "soon", "31.02.2024"};
  intake::TextFormFinder finder(plan);
  bool numbers = plan.numbers.decimal == ',', dates = !plan.dates.formats.empty();
  const int texts = pick(0, 3), from = pick(0, 2);
  for (int i = 0; i < texts; ++i) {
    const std::string& word = words[static_cast<std::size_t>(pick(0, 3) == 0 ? pick(0, 5) : from)];
    finder.see(word);
    numbers &= word == "1,5" || word == "7";
    dates &= word == "03.05.2024";
  }
  const intake::TextForm wanted = texts == 0 ? intake::TextForm::texts
                                  : numbers  ? intake::TextForm::numbers
                                  : dates    ? intake::TextForm::dates
                                             : intake::TextForm::texts;
  RC_ASSERT(finder.form() == wanted);
}

TEST(Bands, AreNamedByTheirEdges) {
  const auto names = [](const std::vector<std::string>& edges, bool whole) {
    std::vector<Decimal> numbers;
    for (const std::string& edge : edges) numbers.push_back(*Decimal::parse(edge));
    std::string all;
    for (const std::string& name : intake::band_names(numbers, whole)) all += name + "|";
    return all;
  };
  EXPECT_EQ(names({"1", "6", "24"}, true), "below 1|1 to 5|6 to 23|24 or more|");
  EXPECT_EQ(names({"1", "2", "24"}, true), "below 1|1|2 to 23|24 or more|");
  EXPECT_EQ(names({"1", "6"}, false), "below 1|1 to under 6|6 or more|");
  EXPECT_EQ(names({"0.5"}, false), "below 0.5|0.5 or more|");
}

TEST(SharedValues, BelongToSeveralCustomersInAnyCase) {
  const TemporaryFolder folder;
  folder.write("lines.csv", kLines +
                                "\nA1,2024-01-01,C1,P1,1,2\nA2,2024-01-01,c1,P1,1,2\nA3,2024-01-01,C2,P1,1,"
                                "2\nA4,2024-01-01,C3,P1,1,2\n");
  folder.write(
      "customers.csv",
      "customer_id,customer_name,email\nC1,Ada Fen,a@x\nc1,ada fen,\nC2,Bo Fen,b@x\nC3,Bo Fenn,B@X\n");
  const ImportRun run =
      import_intake(folder, "[lines]\nfile = \"lines.csv\"\n[customers]\nfile = \"customers.csv\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  const daybook::Daybook& daybook = run.imported->built.daybook;
  const auto shown = [](const std::vector<intake::SharedValue>& all) {
    std::string text;
    for (const intake::SharedValue& each : all) {
      text += each.value + ":";
      for (const std::string& id : each.customer_ids) text += " " + id;
      text += "; ";
    }
    return text;
  };
  EXPECT_EQ(shown(intake::shared_values(daybook, intake::kNameColumns)), "Ada Fen: C1 c1; ");
  EXPECT_EQ(shown(intake::shared_values(daybook, intake::kEmailColumns)), "b@x: C2 C3; ");
  EXPECT_EQ(shown(intake::similar_ids(daybook)), "c1: \"C1\" \"c1\"; ");
}

}  // namespace
}  // namespace pear::test
