#include "study/comparison.hpp"

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <limits>
#include <optional>
#include <set>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "base/text.hpp"
#include "output/data_package.hpp"
#include "output/readable.hpp"
#include "output/scratch_folder.hpp"
#include "output/trail_json.hpp"
#include "question/row_columns.hpp"
#include "study/side_table.hpp"

namespace pear {
namespace {

enum class Change : std::uint8_t { fresh, gone, risen, fallen };
constexpr std::string_view kChanges[] = {"new", "gone", "risen", "fallen"};

/// A row that is not what it was.
struct ChangedRow {
  std::vector<std::string> key;
  Change change = Change::fresh;
  double before = std::numeric_limits<double>::quiet_NaN(), now = before;
  [[nodiscard]] double difference() const {
    return (std::isnan(now) ? 0 : now) - (std::isnan(before) ? 0 : before);
  }
};

/// A table set beside its earlier self.
struct ComparedTable {
  std::string question, stem;
  const Table* table = nullptr;
  std::vector<std::size_t> keys;
  std::size_t measure = 0;
  std::size_t rows_before = 0, same = 0;
  std::vector<ChangedRow> rows;
  [[nodiscard]] std::uint64_t count(Change change) const {
    return static_cast<std::uint64_t>(
        std::count_if(rows.begin(), rows.end(), [&](const ChangedRow& row) { return row.change == change; }));
  }
};

/// Texts behind one another, so that no two different lists are alike.
std::string joined(const std::vector<std::string>& texts) {
  std::string key;
  for (const std::string& text : texts) key += fmt::format("{}:{}", text.size(), text);
  return key;
}

std::vector<std::string> key_of(const Table& table, const std::vector<std::size_t>& keys, std::size_t row) {
  std::vector<std::string> key;
  for (const std::size_t column : keys) key.push_back(cell_text(table.columns[column], row));
  return key;
}

bool tells_apart(const Table& table, const std::vector<std::size_t>& keys) {
  std::set<std::string> seen;
  for (std::size_t row = 0; row < table.rows(); ++row)
    if (!seen.insert(joined(key_of(table, keys, row))).second) return false;
  return true;
}

/// As few of the first texts and dates as tell all rows apart, none where there is one row only; or else the
/// very first column. Nothing where none do.
std::optional<std::vector<std::size_t>> key_columns(const Table& table) {
  std::vector<std::size_t> keys;
  if (tells_apart(table, keys)) return keys;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    const Unit unit = table.columns[i].unit;
    if (unit != Unit::text && unit != Unit::date) continue;
    keys.push_back(i);
    if (tells_apart(table, keys)) return keys;
  }
  keys = {0};
  if (tells_apart(table, keys)) return keys;
  return std::nullopt;
}

/// The first column of money, or else of the next best unit.
std::optional<std::size_t> measure_of(const Table& table, const std::vector<std::size_t>& keys) {
  for (const Unit unit : {Unit::money, Unit::count, Unit::number, Unit::share, Unit::days, Unit::chance})
    for (std::size_t i = 0; i < table.columns.size(); ++i)
      if (table.columns[i].unit == unit && std::find(keys.begin(), keys.end(), i) == keys.end()) return i;
  return std::nullopt;
}

double number_of(const std::string& text) {
  return text.empty() ? std::numeric_limits<double>::quiet_NaN() : std::strtod(text.c_str(), nullptr);
}

/// Where the earlier table has the columns; nothing where it lacks one.
std::optional<std::vector<std::size_t>> places_in(const SideTable& earlier, const Table& table,
                                                  const std::vector<std::size_t>& columns) {
  std::vector<std::size_t> places;
  for (const std::size_t column : columns) {
    const auto found = std::find(earlier.header.begin(), earlier.header.end(), table.columns[column].name);
    if (found == earlier.header.end()) return std::nullopt;
    places.push_back(static_cast<std::size_t>(found - earlier.header.begin()));
  }
  return places;
}

std::optional<ComparedTable> compare_table(const std::string& question, const Table& table,
                                           const SideTable& earlier) {
  const auto keys = key_columns(table);
  const auto measure = keys ? measure_of(table, *keys) : std::nullopt;
  if (!measure) return std::nullopt;
  ComparedTable compared{
      question, file_stem(question, table.part), &table, *keys, *measure, earlier.rows.size(), 0, {}};
  const auto places = places_in(earlier, table, compared.keys), value = places_in(earlier, table, {*measure});
  if (!places || !value) return std::nullopt;
  absl::flat_hash_map<std::string, std::size_t> then;
  std::vector<std::vector<std::string>> keys_then;
  for (const auto& row : earlier.rows) {
    auto& key = keys_then.emplace_back();
    for (const std::size_t place : *places) key.push_back(row[place]);
    if (!then.emplace(joined(key), then.size()).second) return std::nullopt;
  }
  std::vector<bool> met(earlier.rows.size());
  for (std::size_t row = 0; row < table.rows(); ++row) {
    ChangedRow changed{key_of(table, compared.keys, row), Change::fresh};
    changed.now = number_of(cell_text(table.columns[*measure], row));
    const auto found = then.find(joined(changed.key));
    if (found != then.end()) {
      met[found->second] = true;
      changed.before = number_of(earlier.rows[found->second][value->front()]);
      if (changed.difference() == 0) {
        ++compared.same;
        continue;
      }
      changed.change = changed.difference() > 0 ? Change::risen : Change::fallen;
    }
    compared.rows.push_back(std::move(changed));
  }
  for (std::size_t row = 0; row < met.size(); ++row)
    if (!met[row])
      compared.rows.push_back({keys_then[row], Change::gone, number_of(earlier.rows[row][value->front()])});
  std::stable_sort(compared.rows.begin(), compared.rows.end(), [](const ChangedRow& a, const ChangedRow& b) {
    return std::abs(a.difference()) > std::abs(b.difference());
  });
  return compared;
}

/// A column of what a row's measure was, is, or differs by, as the table itself has it.
template <class Of>
TableColumn measure_column(const ComparedTable& compared, std::string name, const std::string& description,
                           Of of) {
  const TableColumn& measured = compared.table->columns[compared.measure];
  std::vector<double> fractions;
  std::vector<std::int64_t> units;
  const bool is_decimal = measured.unit == Unit::money || measured.unit == Unit::number;
  for (const ChangedRow& row : compared.rows) {
    const double value = of(row);
    fractions.push_back(value);
    units.push_back(std::isnan(value) ? kEmptyCell
                                      : std::llround(is_decimal ? value * Decimal::kScale : value));
  }
  if (is_fraction(measured.unit)) return share_column(std::move(name), description, std::move(fractions));
  TableColumn column = integer_column(std::move(name), measured.unit, description, std::move(units));
  column.places = measured.places;
  return column;
}

Table changes_table(const ComparedTable& compared) {
  const std::string& measure = compared.table->columns[compared.measure].name;
  Table table{
      compared.stem,
      "What changed in " + compared.stem,
      fmt::format(
          "One row for each row of {} that is new, gone, risen or fallen by {}; largest differences first.",
          compared.stem, measure),
      {}};
  for (std::size_t i = 0; i < compared.keys.size(); ++i) {
    const TableColumn& key = compared.table->columns[compared.keys[i]];
    TextArray texts;
    for (const ChangedRow& row : compared.rows) texts.push_back(row.key[i]);
    table.columns.push_back(text_column(key.name, key.description, std::move(texts)));
    table.columns.back().always_shown = true;
  }
  TextArray changes;
  for (const ChangedRow& row : compared.rows)
    changes.push_back(kChanges[static_cast<std::size_t>(row.change)]);
  table.columns.push_back(text_column("change", "new, gone, risen or fallen.", std::move(changes)));
  table.columns.push_back(measure_column(compared, measure + "_before", "What it was; empty of new rows.",
                                         [](const ChangedRow& row) { return row.before; }));
  table.columns.push_back(measure_column(compared, measure + "_now",
                                         "What it is; empty of rows that are gone.",
                                         [](const ChangedRow& row) { return row.now; }));
  table.columns.push_back(measure_column(compared, "difference", "What it is less what it was.",
                                         [](const ChangedRow& row) { return row.difference(); }));
  return table;
}

Table summary_table(const std::vector<ComparedTable>& all) {
  Table table{"", "What changed", "One row for each table that was there before, too.", {}};
  TextArray names, measures;
  for (const ComparedTable& each : all) {
    names.push_back(each.stem);
    measures.push_back(each.table->columns[each.measure].name);
  }
  table.columns.push_back(text_column("table", "The table, by the name of its file.", std::move(names)));
  table.columns.push_back(
      text_column("measure", "The column by which rows rise and fall.", std::move(measures)));
  RowColumns rows(all, table.columns);
  rows.whole("rows_before", Unit::count, "Rows that it had.",
             [](const ComparedTable& each) { return each.rows_before; });
  rows.whole("rows_now", Unit::count, "Rows that it has.",
             [](const ComparedTable& each) { return each.table->rows(); });
  for (const Change change : {Change::fresh, Change::gone, Change::risen, Change::fallen})
    rows.whole(std::string(kChanges[static_cast<std::size_t>(change)]), Unit::count, "Rows that are so.",
               [&](const ComparedTable& each) { return each.count(change); });
  rows.whole("same", Unit::count, "Rows whose measure is what it was.",
             [](const ComparedTable& each) { return each.same; });
  return table;
}

/// "P43 Starter kit socks, 2024: amount 1,200.00 to 1,350.00"
std::string biggest_told(const ComparedTable& compared, const Table& changes) {
  const ChangedRow& row = compared.rows.front();
  const auto cell = [&](std::size_t behind) {
    return readable_cell(changes.columns[compared.keys.size() + behind], 0);
  };
  const std::string& measure = compared.table->columns[compared.measure].name;
  const std::string what = row.key.empty() ? "its row" : join(row.key, " ");
  if (row.change == Change::fresh)
    return fmt::format("{} is new in {}, with {} {}", what, compared.stem, measure, cell(2));
  if (row.change == Change::gone)
    return fmt::format("{} is gone from {}, which had {} {}", what, compared.stem, measure, cell(1));
  return fmt::format("in {}{}, {} from {} to {}", compared.stem, row.key.empty() ? "" : ", " + what, measure,
                     cell(1), cell(2));
}

std::vector<std::string> headline_of(const std::vector<ComparedTable>& all, const std::vector<Table>& changes,
                                     const std::string& folder) {
  std::uint64_t counts[4] = {};
  std::size_t changed = 0;
  for (const ComparedTable& each : all) {
    changed += each.rows.empty() ? 0U : 1U;
    for (std::size_t i = 0; i < 4; ++i) counts[i] += each.count(static_cast<Change>(i));
  }
  if (changed == 0)
    return {fmt::format("Nothing has changed since {}: {} are the same in every row.", folder,
                        counted(all.size(), "table"))};
  std::vector<std::string> headline = {
      fmt::format("{} of {} changed since {}: {} are new, {} gone, {} risen, {} fallen.", changed,
                  counted(all.size(), "table"), folder, counted(counts[0], "row"),
                  with_thousands(static_cast<std::int64_t>(counts[1])),
                  with_thousands(static_cast<std::int64_t>(counts[2])),
                  with_thousands(static_cast<std::int64_t>(counts[3])))};
  // of money where there is any, and of each question once
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (!all[i].rows.empty()) order.push_back(i);
  const auto rank = [&](std::size_t i) {
    const bool of_money = all[i].table->columns[all[i].measure].unit == Unit::money;
    return std::pair(of_money, std::abs(all[i].rows.front().difference()));
  };
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return rank(a) > rank(b); });
  constexpr std::size_t kMostTold = 3;
  std::vector<std::string> told;
  std::set<std::string> questions;
  for (const std::size_t i : order)
    if (told.size() < kMostTold && questions.insert(all[i].question).second)
      told.push_back(biggest_told(all[i], changes[i]));
  headline.push_back("Most: " + join(told, "; ") + ".");
  return headline;
}

}  // namespace

OrError<EarlierAnswers> read_earlier(const std::string& folder) {
  const std::string path = folder + "/datapackage.json";
  PEAR_ASSIGN(const std::string text, read_whole_file(path));
  const Json package = Json::parse(text, nullptr, false);
  if (!package.is_object() || !package.contains("trails") || !package.contains("resources"))
    return data_error(fmt::format(
        "{} is no Data Package of pear-thread. Name the folder that an earlier study wrote.", path));
  EarlierAnswers earlier;
  earlier.folder = folder;
  for (const auto& [name, trail] : package["trails"].items()) {
    earlier.commands[name] = trail.value("command", "");
    earlier.last_dates[name] = trail.contains("population") ? trail["population"].value("last_date", "") : "";
  }
  for (const Json& resource : package["resources"]) {
    const std::string file = resource.value("path", "");
    PEAR_ASSIGN(earlier.tables[std::filesystem::path(file).stem().string()],
                read_side_table(folder + "/" + file));
  }
  return earlier;
}

Result compare(const StudyAnswers& now, const EarlierAnswers& earlier) {
  Result result;
  result.question = "changes";
  std::vector<ComparedTable> all;
  std::vector<std::string> left_out, otherwise;
  for (const StudyAnswer& answer : now.answers) {
    if (!answer.answer) continue;
    result.currency = answer.answer->result.currency;
    if (!result.population.last_date)
      result.population =
          answer.answer->result.whole ? *answer.answer->result.whole : answer.answer->result.population;
    const auto command = earlier.commands.find(answer.name());
    if (command != earlier.commands.end() && command->second != answer.answer->trail.command_line)
      otherwise.push_back(answer.name());
    for (const Table& table : answer.answer->result.tables) {
      const std::string stem = file_stem(answer.name(), table.part);
      const auto then = earlier.tables.find(stem);
      auto compared =
          then == earlier.tables.end() ? std::nullopt : compare_table(answer.name(), table, then->second);
      if (compared)
        all.push_back(std::move(*compared));
      else
        left_out.push_back(stem);
    }
  }
  std::vector<Table> changes;
  for (const ComparedTable& each : all) changes.push_back(changes_table(each));
  result.headline = headline_of(all, changes, earlier.folder);
  result.tables.push_back(summary_table(all));
  for (Table& table : changes)
    if (table.rows() > 0) result.tables.push_back(std::move(table));
  std::set<std::string> dates;
  for (const auto& [name, date] : earlier.last_dates)
    if (!date.empty()) dates.insert(date);
  if (!dates.empty() && result.population.last_date)
    result.definitions.emplace_back(
        "time", fmt::format("sales reached to {} then, and reach to {} now", *dates.rbegin(),
                            to_text(*result.population.last_date)));
  if (!otherwise.empty())
    result.notes.push_back(fmt::format("Asked with other options than before: {}.", join(otherwise, ", ")));
  if (!left_out.empty())
    result.notes.push_back(
        fmt::format("Not compared, since they were not there before or no columns tell their rows apart: {}.",
                    join(left_out, ", ")));
  bool adds_up = true;
  for (const ComparedTable& each : all)
    adds_up = adds_up && each.same + each.count(Change::risen) + each.count(Change::fallen) +
                                 each.count(Change::fresh) ==
                             each.table->rows();
  result.checks.push_back({"new, risen, fallen and same rows add up to all rows of every table", adds_up});
  return result;
}

}  // namespace pear
