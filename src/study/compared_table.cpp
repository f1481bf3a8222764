#include "study/compared_table.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "base/text.hpp"
#include "output/tables/readable.hpp"

namespace pear::study {
namespace {

/// A column of a row's measure before, now, or the difference, in the table's own unit.
template <class Of>
result::TableColumn measure_column(const ComparedTable& compared, std::string name,
                                   const std::string& description, Of of) {
  const result::TableColumn& measured = compared.table->columns[compared.measure];
  std::vector<double> fractions;
  std::vector<std::int64_t> units;
  const bool is_decimal = measured.unit == result::Unit::money || measured.unit == result::Unit::number;
  for (const ChangedRow& row : compared.rows) {
    const double value = of(row);
    fractions.push_back(value);
    units.push_back(std::isnan(value) ? result::kEmptyCell
                                      : std::llround(is_decimal ? value * Decimal::kScale : value));
  }
  if (result::is_fraction(measured.unit))
    return result::share_column(std::move(name), description, std::move(fractions));
  result::TableColumn column =
      result::integer_column(std::move(name), measured.unit, description, std::move(units));
  column.places = measured.places;
  return column;
}

/// "P43 Starter kit socks, 2024: amount 1,200.00 to 1,350.00"
std::string largest_change_text(const ComparedTable& compared, const result::Table& changes) {
  const ChangedRow& row = compared.rows.front();
  const auto cell = [&](std::size_t behind) {
    return output::readable_cell(changes.columns[compared.keys.size() + behind], 0);
  };
  const std::string& measure = compared.table->columns[compared.measure].name;
  const std::string what = row.key.empty() ? "its row" : join(row.key, " ");
  if (row.change == Change::fresh)
    return fmt::format("{} is new in {}, with {} {}", what, compared.stem, measure, cell(2));
  if (row.change == Change::gone)
    return fmt::format("{} is no longer in {}; it had {} {}", what, compared.stem, measure, cell(1));
  return fmt::format("in {}{}, {} from {} to {}", compared.stem, row.key.empty() ? "" : ", " + what, measure,
                     cell(1), cell(2));
}

}  // namespace

result::Table changes_table(const ComparedTable& compared) {
  const std::string& measure = compared.table->columns[compared.measure].name;
  result::Table table{
      compared.stem,
      "What changed in " + compared.stem,
      fmt::format(
          "One row for each row of {} that is new, gone, higher or lower by {}; largest differences first.",
          compared.stem, measure),
      {}};
  for (std::size_t i = 0; i < compared.keys.size(); ++i) {
    const result::TableColumn& key = compared.table->columns[compared.keys[i]];
    TextArray texts;
    for (const ChangedRow& row : compared.rows) texts.push_back(row.key[i]);
    table.columns.push_back(result::text_column(key.name, key.description, std::move(texts)));
    table.columns.back().always_shown = true;
  }
  TextArray changes;
  for (const ChangedRow& row : compared.rows)
    changes.push_back(kChanges[static_cast<std::size_t>(row.change)]);
  table.columns.push_back(result::text_column("change", "new, gone, risen or fallen.", std::move(changes)));
  table.columns.push_back(measure_column(compared, measure + "_before",
                                         "The value before; empty for new rows.",
                                         [](const ChangedRow& row) { return row.before; }));
  table.columns.push_back(measure_column(compared, measure + "_now",
                                         "The value now; empty for rows that are gone.",
                                         [](const ChangedRow& row) { return row.now; }));
  table.columns.push_back(measure_column(compared, "difference", "The value now minus the value before.",
                                         [](const ChangedRow& row) { return row.difference(); }));
  return table;
}

result::Table summary_table(const std::vector<ComparedTable>& all) {
  result::Table table{"", "What changed", "One row for each table that the earlier run also wrote.", {}};
  analysis::TableBuilder builder(table, all);
  builder.text("table", "The table, by the name of its file.",
               [](const ComparedTable& each) { return std::string_view(each.stem); });
  builder.text("measure", "The column whose values are compared.", [](const ComparedTable& each) {
    return std::string_view(each.table->columns[each.measure].name);
  });
  builder.count("rows_before", "Rows before.", [](const ComparedTable& each) { return each.rows_before; });
  builder.count("rows_now", "Rows now.", [](const ComparedTable& each) { return each.table->rows(); });
  for (const Change change : {Change::fresh, Change::gone, Change::risen, Change::fallen})
    builder.count(std::string(kChanges[static_cast<std::size_t>(change)]), "Rows of this kind.",
                  [&](const ComparedTable& each) { return each.count(change); });
  builder.count("same", "Rows with the same value as before.",
                [](const ComparedTable& each) { return each.same; });
  return table;
}

std::vector<std::string> changes_headline(const std::vector<ComparedTable>& all,
                                          const std::vector<result::Table>& changes,
                                          const std::string& folder) {
  std::uint64_t counts[4] = {};
  std::size_t changed = 0;
  for (const ComparedTable& each : all) {
    changed += each.rows.empty() ? 0U : 1U;
    for (std::size_t i = 0; i < 4; ++i) counts[i] += each.count(static_cast<Change>(i));
  }
  if (changed == 0)
    return {fmt::format("Nothing has changed since {}: {} {} the same in every row.", folder,
                        counted(all.size(), "table"), all.size() == 1 ? "is" : "are")};
  std::vector<std::string> headline = {
      fmt::format("{} of {} changed since {}: {} {} new, {} gone, {} risen, {} fallen.", changed,
                  counted(all.size(), "table"), folder, counted(counts[0], "row"),
                  counts[0] == 1 ? "is" : "are", with_thousands(static_cast<std::int64_t>(counts[1])),
                  with_thousands(static_cast<std::int64_t>(counts[2])),
                  with_thousands(static_cast<std::int64_t>(counts[3])))};
  // of money if there is any, and only one of each question
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (!all[i].rows.empty()) order.push_back(i);
  const auto rank = [&](std::size_t i) {
    const bool of_money = all[i].table->columns[all[i].measure].unit == result::Unit::money;
    return std::pair(of_money, std::abs(all[i].rows.front().difference()));
  };
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return rank(a) > rank(b); });
  constexpr std::size_t kMostSentences = 3;
  std::vector<std::string> sentences;
  std::set<std::string> questions;
  for (const std::size_t i : order)
    if (sentences.size() < kMostSentences && questions.insert(all[i].question).second)
      sentences.push_back(largest_change_text(all[i], changes[i]));
  headline.push_back("Most: " + join(sentences, "; ") + ".");
  return headline;
}

}  // namespace pear::study
