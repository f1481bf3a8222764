// What has changed since an earlier run, against a map from keys to values.
#include "study/comparison.hpp"

#include <cmath>
#include <map>
#include <optional>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "output/tables/result_files.hpp"
#include "study/made_up_answers.hpp"
#include "support/random_shop.hpp"
#include "support/results.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

using Value = std::optional<std::int64_t>;                             // empty cells have none
using Version = std::map<std::pair<std::string, std::string>, Value>;  // region and id -> amount in cents

/// Few keys, so that two versions share many; one region has the ids of another.
Version random_version() {
  Version version;
  for (int i = pick(0, 12); i > 0; --i) {
    const std::string region = pick(0, 1) == 0 ? "North" : "South";
    version[{region, "P" + std::to_string(pick(1, 5))}] =
        pick(0, 5) == 0 ? Value() : Value(std::int64_t{pick(-3, 3)} * 12'345);
  }
  return version;
}

result::Table table_of(const Version& version) {
  std::vector<std::string> regions, ids;
  std::vector<std::int64_t> orders, amounts;
  for (const auto& [key, value] : version) {
    regions.push_back(key.first);
    ids.push_back(key.second);
    orders.push_back(pick(1, 9));
    amounts.push_back(value ? *value * (Decimal::kScale / 100) : result::kEmptyCell);
  }
  return {"",
          "Amounts",
          "",
          {result::text_column("region", "", text_array(regions)),
           result::integer_column("orders", result::Unit::count, "", orders),
           result::text_column("id", "", text_array(ids)),
           result::integer_column("amount", result::Unit::money, "", amounts)}};
}

/// The table as a file: its columns in another order, and one more.
analysis::SideTable file_of(const Version& version) {
  analysis::SideTable file;
  file.header = {"amount", "note", "id", "region", "orders"};
  for (const auto& [key, value] : version)
    file.rows.push_back({value ? Decimal::from_units(*value * (Decimal::kScale / 100)).to_text(2) : "", "x",
                         key.second, key.first, "1"});
  return file;
}

std::string cents(const Value& value) {
  return value ? Decimal::from_units(*value * (Decimal::kScale / 100)).to_text(2) : "";
}

/// Whether the first version's keys need the id, or even no key.
std::vector<std::string> key_names(const Version& version) {
  if (version.size() < 2) return {};
  std::map<std::string, int> regions;
  for (const auto& [key, value] : version) ++regions[key.first];
  return regions.size() == version.size() ? std::vector<std::string>{"region"}
                                          : std::vector<std::string>{"region", "id"};
}

RC_GTEST_PROP(Comparison, EveryChangedRowIsListedWithBothValues, ()) {
  const Version before = random_version(), now = random_version();
  RC_PRE(key_names(now).size() == 2);  // so that both versions have the same keys
  MadeUpAnswers answers(1);
  result::Result current;
  current.tables.push_back(table_of(now));
  answers.add("prices", current);
  study::EarlierAnswers earlier{"old", {}, {}, {{"prices", file_of(before)}}};
  const result::Result changes = study::compare(answers.get(), earlier);
  expect_checks_hold(changes);

  Cells wanted;
  std::map<std::string, int> counts;
  const auto add = [&](const auto& key, const std::string& change, const Value& then, const Value& value) {
    ++counts[change];
    if (change == "same") return;
    wanted.push_back({key.first, key.second, change, cents(then), cents(value),
                      cents(value.value_or(0) - then.value_or(0))});
  };
  for (const auto& [key, value] : now) {
    const auto then = before.find(key);
    const std::int64_t difference = value.value_or(0) - (then == before.end() ? 0 : then->second.value_or(0));
    if (then == before.end())
      add(key, "new", {}, value);
    else
      add(key, difference == 0 ? "same" : difference > 0 ? "risen" : "fallen", then->second, value);
  }
  for (const auto& [key, value] : before)
    if (!now.contains(key)) add(key, "gone", value, {});
  RC_ASSERT(
      columns_of(changes.tables[0],
                 {"table", "measure", "rows_before", "rows_now", "new", "gone", "risen", "fallen", "same"}) ==
      (Cells{{"prices", "amount", std::to_string(before.size()), std::to_string(now.size()),
              std::to_string(counts["new"]), std::to_string(counts["gone"]), std::to_string(counts["risen"]),
              std::to_string(counts["fallen"]), std::to_string(counts["same"])}}));
  RC_ASSERT(changes.tables.size() == (wanted.empty() ? 1U : 2U));
  if (wanted.empty()) {
    RC_ASSERT(changes.headline[0] == "Nothing has changed since old: 1 table is the same in every row.");
    return;
  }
  const Cells rows =
      columns_of(changes.tables[1], {"region", "id", "change", "amount_before", "amount_now", "difference"});
  RC_ASSERT(sorted(rows) == sorted(wanted));
  for (std::size_t row = 1; row < rows.size(); ++row)
    RC_ASSERT(std::abs(std::stod(rows[row - 1][5])) >= std::abs(std::stod(rows[row][5])));
}

/// What a run wrote is what the next one compares with.
RC_GTEST_PROP(Comparison, AnEarlierRunIsReadBackFromItsFolder, ()) {
  const TemporaryFolder folder;
  std::map<std::string, Cells> written;
  for (const std::string name : {"prices", "first"}) {
    result::Result current;
    current.population.last_date = Date{pick(18'000, 20'000)};
    const Version version = random_version();
    current.tables.push_back(table_of(version));
    current.tables.push_back(table_of(random_version()));
    current.tables[1].part = "part";
    for (const result::Table& each : current.tables)
      written[output::file_stem(name, each.part)] = columns_of(each, {"region", "orders", "id", "amount"});
    RC_ASSERT(
        output::write_result(current, {"pear-thread " + name, "s.daybook", "", ""}, {folder.path(), name, {}})
            .has_value());
  }
  const auto earlier = study::read_earlier(folder.path());
  RC_ASSERT(earlier.has_value());
  RC_ASSERT(earlier->commands.at("first") == "pear-thread first");
  RC_ASSERT(earlier->last_dates.at("prices").size() == 10U);
  RC_ASSERT(earlier->tables.size() == written.size());
  for (const auto& [stem, cells] : written) RC_ASSERT(earlier->tables.at(stem).rows == cells);
}

TEST(Comparison, RejectsAFolderThatNoStudyWrote) {
  const TemporaryFolder folder;
  EXPECT_EQ(study::read_earlier(folder.path()).error().kind, ErrorKind::io);
  for (const char* text : {"{}", "[]", "no JSON", R"({"trails": [], "resources": []})",
                           R"({"trails": {}, "resources": {}})", R"({"resources": []})"}) {
    folder.write("datapackage.json", text);
    const auto earlier = study::read_earlier(folder.path());
    ASSERT_FALSE(earlier.has_value()) << text;
    EXPECT_EQ(earlier.error().message, folder / "datapackage.json" +
                                           " was not written by a study. Name the folder of an earlier run.");
  }
  folder.write("datapackage.json",
               R"({"trails": {"a": {"command": 5}}, "resources": [{"path": "a.csv"}, {"name": "x"}]})");
  EXPECT_EQ(study::read_earlier(folder.path()).error().kind, ErrorKind::io) << "a.csv is missing";
  folder.write("a.csv", "id,amount\nP1,5\n");
  EXPECT_EQ(study::read_earlier(folder.path())->tables.at("a").rows, (Cells{{"P1", "5"}}));
}

/// Without texts that identify rows, the first column does; without any such column, a table is not compared.
TEST(Comparison, IdentifiesRowsByTheirFirstColumn) {
  MadeUpAnswers answers(2);
  result::Result bands, repeated;
  bands.tables = {{"",
                   "",
                   "",
                   {result::integer_column("orders", result::Unit::count, "", {1, 2}),
                    result::integer_column("customers", result::Unit::count, "", {50, 20})}}};
  repeated.tables = {{"",
                      "",
                      "",
                      {result::integer_column("orders", result::Unit::count, "", {1, 1}),
                       result::integer_column("customers", result::Unit::count, "", {50, 20})}}};
  answers.add("bands", bands);
  answers.add("repeated", repeated);
  analysis::SideTable then;
  then.header = {"orders", "customers"};
  then.rows = {{"1", "45"}, {"2", "20"}};
  const result::Result changes =
      study::compare(answers.get(), {"old", {}, {}, {{"bands", then}, {"repeated", then}}});
  EXPECT_EQ(
      columns_of(changes.tables[1], {"orders", "change", "customers_before", "customers_now", "difference"}),
      (Cells{{"1", "risen", "45", "50", "5"}}));
  EXPECT_EQ(changes.tables.size(), 2U);
  EXPECT_TRUE(changes.notes.back().ends_with("no columns identify their rows: repeated."))
      << changes.notes.back();
}

/// Two tables of money, one of counts; tables that have no earlier version are named.
TEST(Comparison, TheHeadlineNamesTheLargestChangeOfMoneyFirst) {
  const auto of = [](const std::string& part, result::Unit unit, std::vector<std::int64_t> values) {
    return result::Table{part,
                         "",
                         "",
                         {result::text_column("id", "", text_array({"P1", "P2"})),
                          result::integer_column("value", unit, "", std::move(values))}};
  };
  MadeUpAnswers answers(4);
  result::Result first, second, third;
  first.tables = {of("", result::Unit::count, {900, 1}), of("more", result::Unit::money, {50'000, 20'000})};
  second.tables = {of("", result::Unit::money, {30'000, 20'000})};
  second.tables[0].columns[0] = result::text_column("id", "", text_array({"P1", "P1"}));
  third.tables = {of("", result::Unit::money, {10'000, 20'000})};
  third.population.last_date = Date{19'000};
  answers.add("first", first);
  answers.add("second", second);
  answers.add_failed("broken", "no");
  answers.add("third", third);
  const auto file = [](std::vector<std::vector<std::string>> rows) {
    analysis::SideTable table;
    table.header = {"id", "value"};
    table.rows = std::move(rows);
    return table;
  };
  study::EarlierAnswers earlier{"old",
                                {{"first", "pear-thread first --top 3"}, {"third", "pear-thread third"}},
                                {{"first", "2021-12-31"}, {"third", ""}},
                                {{"first", file({{"P1", "100"}, {"P2", "1"}})},
                                 {"first-more", file({{"P1", "4.00"}, {"P2", "2.00"}})},
                                 {"second", file({{"P1", "1"}})},
                                 {"third", file({{"P2", "2.00"}, {"P3", "7.50"}})}}};
  const result::Result changes = study::compare(answers.get(), earlier);
  EXPECT_EQ(
      changes.headline,
      (std::vector<std::string>{
          "3 of 3 tables changed since old: 1 row is new, 1 gone, 2 risen, 0 fallen.",
          "Most: P3 is no longer in third; it had value 7.50; in first-more, P1, value from 4.00 to 5.00."}));
  EXPECT_EQ(changes.notes, (std::vector<std::string>{"Options differ from those of the earlier run: first.",
                                                     "Not compared, because the earlier run does not have "
                                                     "them or no columns identify their rows: second."}));
  EXPECT_EQ(changes.definitions[0].second, "sales ended on 2021-12-31 then, and end on 2022-01-08 now");
  EXPECT_EQ(changes.tables.size(), 4U);
}

}  // namespace
}  // namespace pear::test
