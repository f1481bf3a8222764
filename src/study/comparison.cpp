#include "study/comparison.hpp"

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <limits>
#include <optional>
#include <set>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "app/side_table.hpp"
#include "base/text.hpp"
#include "files/whole_file.hpp"
#include "output/tables/data_package.hpp"
#include "output/tables/trail_json.hpp"
#include "result/cell_text.hpp"
#include "study/compared_table.hpp"

namespace pear::study {
namespace {

/// Texts joined so that no two different lists are equal.
std::string joined(const std::vector<std::string>& texts) {
  std::string key;
  for (const std::string& text : texts) key += fmt::format("{}:{}", text.size(), text);
  return key;
}

std::vector<std::string> key_of(const result::Table& table, const std::vector<std::size_t>& keys,
                                std::size_t row) {
  std::vector<std::string> key;
  for (const std::size_t column : keys) key.push_back(result::cell_text(table.columns[column], row));
  return key;
}

bool tells_apart(const result::Table& table, const std::vector<std::size_t>& keys) {
  std::set<std::string> seen;
  for (std::size_t row = 0; row < table.rows(); ++row)
    if (!seen.insert(joined(key_of(table, keys, row))).second) return false;
  return true;
}

/// The smallest number of first texts and dates that identify all rows, none if there is only one row; or
/// else the very first column. Nothing if none do.
std::optional<std::vector<std::size_t>> key_columns(const result::Table& table) {
  std::vector<std::size_t> keys;
  if (tells_apart(table, keys)) return keys;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    const result::Unit unit = table.columns[i].unit;
    if (unit != result::Unit::text && unit != result::Unit::date) continue;
    keys.push_back(i);
    if (tells_apart(table, keys)) return keys;
  }
  keys = {0};
  if (tells_apart(table, keys)) return keys;
  return std::nullopt;
}

/// The first column of money, or else of the next best unit.
std::optional<std::size_t> measure_of(const result::Table& table, const std::vector<std::size_t>& keys) {
  for (const result::Unit unit : {result::Unit::money, result::Unit::count, result::Unit::number,
                                  result::Unit::share, result::Unit::days, result::Unit::probability})
    for (std::size_t i = 0; i < table.columns.size(); ++i)
      if (table.columns[i].unit == unit && std::find(keys.begin(), keys.end(), i) == keys.end()) return i;
  return std::nullopt;
}

double number_of(const std::string& text) {
  return text.empty() ? std::numeric_limits<double>::quiet_NaN() : std::strtod(text.c_str(), nullptr);
}

/// The positions of the columns in the earlier table; nothing if one is missing.
std::optional<std::vector<std::size_t>> places_in(const analysis::SideTable& earlier,
                                                  const result::Table& table,
                                                  const std::vector<std::size_t>& columns) {
  std::vector<std::size_t> places;
  for (const std::size_t column : columns) {
    const auto found = std::find(earlier.header.begin(), earlier.header.end(), table.columns[column].name);
    if (found == earlier.header.end()) return std::nullopt;
    places.push_back(static_cast<std::size_t>(found - earlier.header.begin()));
  }
  return places;
}

std::optional<ComparedTable> compare_table(const std::string& question, const result::Table& table,
                                           const analysis::SideTable& earlier) {
  const auto keys = key_columns(table);
  const auto measure = keys ? measure_of(table, *keys) : std::nullopt;
  if (!measure) return std::nullopt;
  ComparedTable compared{
      question, output::file_stem(question, table.part), &table, *keys, *measure, earlier.rows.size(), 0, {}};
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
    changed.now = number_of(result::cell_text(table.columns[*measure], row));
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

}  // namespace

OrError<EarlierAnswers> read_earlier(const std::string& folder) {
  const std::string path = folder + "/datapackage.json";
  PEAR_ASSIGN(const std::string text, files::read_whole_file(path));
  const output::Json package = output::parse_json(text);
  const bool is_package = package.is_object() && package.contains("trails") &&
                          package["trails"].is_object() && package.contains("resources") &&
                          package["resources"].is_array();
  if (!is_package)
    return data_error(fmt::format("{} was not written by a study. Name the folder of an earlier run.", path));
  EarlierAnswers earlier;
  earlier.folder = folder;
  for (const auto& [name, trail] : package["trails"].items()) {
    earlier.commands[name] = output::text_of(trail, "command");
    if (trail.is_object() && trail.contains("population"))
      earlier.last_dates[name] = output::text_of(trail["population"], "last_date");
  }
  for (const output::Json& resource : package["resources"]) {
    const std::string file = output::text_of(resource, "path");
    if (file.empty()) continue;
    PEAR_ASSIGN(earlier.tables[std::filesystem::path(file).stem().string()],
                app::read_side_table(folder + "/" + file));
  }
  return earlier;
}

result::Result compare(const StudyAnswers& now, const EarlierAnswers& earlier) {
  result::Result result;
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
    for (const result::Table& table : answer.answer->result.tables) {
      const std::string stem = output::file_stem(answer.name(), table.part);
      const auto then = earlier.tables.find(stem);
      auto compared =
          then == earlier.tables.end() ? std::nullopt : compare_table(answer.name(), table, then->second);
      if (compared)
        all.push_back(std::move(*compared));
      else
        left_out.push_back(stem);
    }
  }
  std::vector<result::Table> changes;
  for (const ComparedTable& each : all) changes.push_back(changes_table(each));
  result.headline = changes_headline(all, changes, earlier.folder);
  result.tables.push_back(summary_table(all));
  for (result::Table& table : changes)
    if (table.rows() > 0) result.tables.push_back(std::move(table));
  std::set<std::string> dates;
  for (const auto& [name, date] : earlier.last_dates)
    if (!date.empty()) dates.insert(date);
  if (!dates.empty() && result.population.last_date)
    result.definitions.emplace_back("time",
                                    fmt::format("sales ended on {} then, and end on {} now", *dates.rbegin(),
                                                to_text(*result.population.last_date)));
  if (!otherwise.empty())
    result.notes.push_back(
        fmt::format("Options differ from those of the earlier run: {}.", join(otherwise, ", ")));
  if (!left_out.empty())
    result.notes.push_back(fmt::format(
        "Not compared, because the earlier run does not have them or no columns identify their rows: {}.",
        join(left_out, ", ")));
  bool adds_up = true;
  for (const ComparedTable& each : all)
    adds_up = adds_up && each.same + each.count(Change::risen) + each.count(Change::fallen) +
                                 each.count(Change::fresh) ==
                             each.table->rows();
  result.checks.push_back({"new, risen, fallen and same rows add up to all rows of every table", adds_up});
  return result;
}

}  // namespace pear::study
