#include "pushdown/cells_in_sql.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "analysis/time_keys.hpp"
#include "base/date.hpp"
#include "base/text.hpp"
#include "pushdown/aggregate_in_sql.hpp"

namespace pear::pushdown {
namespace {

using expression::GroupedExpression;
using expression::GroupKey;
constexpr std::uint32_t kNoRow = daybook::kNoMember;

/// The values of some rows of a column; those of groups without lines for kNoRow: counts and sums are 0,
/// others are empty.
daybook::ColumnValues picked(const daybook::ColumnValues& column, const std::vector<std::uint32_t>& rows,
                             bool none_is_zero) {
  const auto pick = [&](auto values, auto none) {
    auto& array = daybook::array_of(values);
    std::remove_reference_t<decltype(array)> chosen;
    for (const std::uint32_t row : rows) chosen.push_back(row == kNoRow ? none : array[row]);
    array = std::move(chosen);
    return daybook::ColumnValues(std::move(values));
  };
  if (const auto* text = std::get_if<daybook::TextValues>(&column)) return pick(*text, daybook::kEmptyCode);
  if (const auto* date = std::get_if<daybook::DateValues>(&column)) return pick(*date, daybook::kEmptyDays);
  if (const auto* time = std::get_if<daybook::TimeValues>(&column))
    return pick(*time, std::int32_t{Moment::kNoTime});
  return pick(std::get<daybook::DecimalValues>(column), none_is_zero ? 0 : daybook::kEmptyUnits);
}

bool is_zero_without_lines(const expression::Aggregate& aggregate) {
  const AnswerKind kind = answer_kind_of(aggregate);
  return kind == AnswerKind::count || kind == AnswerKind::sum;
}

class SqlFigure final : public expression::FigureOfCells {
 public:
  SqlFigure(const GroupedExpression& figure, const SelectedLines& lines, const std::vector<SqlKey>& keys,
            const GroupedLines& cells)
      : figure_(figure), lines_(lines), keys_(keys), cells_(cells) {
    expression::Grain parts = expression::grain::kConstant;
    for (const SqlKey& key : keys) parts |= key.key.grain;
    adds_up_ = std::all_of(figure.aggregates().begin(), figure.aggregates().end(),
                           [&](const expression::Aggregate& aggregate) {
                             return aggregate.adds_up() && expression::within(parts, aggregate.grain());
                           });
  }

  [[nodiscard]] OrError<expression::Values> by_group(std::span<const std::uint32_t> group_of_cell,
                                                     std::uint32_t groups,
                                                     expression::FaultCount* faults) const override {
    if (adds_up_) return added_up(group_of_cell, groups, faults);
    const std::optional<std::vector<std::size_t>> keys = deciding_keys(group_of_cell);
    if (keys) return by_keys(*keys, group_of_cell, groups, faults);
    return by_list(group_of_cell, groups, faults);
  }

 private:
  OrError<expression::Values> added_up(std::span<const std::uint32_t> group_of_cell, std::uint32_t groups,
                                       expression::FaultCount* faults) const {
    if (!of_cells_) {
      PEAR_ASSIGN(GroupedLines read, group_lines(lines_, keys_, {figure_}));
      of_cells_ = std::move(read.aggregates.front());
    }
    std::vector<daybook::ColumnValues> sums;
    for (const daybook::ColumnValues& column : *of_cells_) {
      const auto& units = std::get<daybook::DecimalValues>(column).units;
      std::vector<DecimalSum> by_group(groups);
      for (std::size_t cell = 0; cell < units.size(); ++cell)
        by_group[group_of_cell[cell]].add(Decimal::from_units(units[cell]));
      daybook::DecimalValues totals;
      for (const DecimalSum& sum : by_group) {
        const auto total = sum.total();
        if (!total)
          return data_error(
              "a figure adds up to more than 922,337,203,685,477, the largest number that is possible.");
        totals.units.push_back(total->units());
      }
      sums.emplace_back(std::move(totals));
    }
    return figure_.of_aggregates(sums, groups, faults);
  }

  /// The fewest keys, the first of the axis down and the first of the axis across, that cells of different
  /// groups differ in, and cells of one group do not; nothing where groups combine other cells.
  [[nodiscard]] std::optional<std::vector<std::size_t>> deciding_keys(
      std::span<const std::uint32_t> group_of_cell) const {
    const std::size_t all = keys_.size();
    for (std::size_t chosen = 0; chosen < (std::size_t{1} << all); ++chosen) {
      std::vector<std::size_t> keys;
      for (std::size_t i = 0; i < all; ++i)
        if ((chosen >> i & 1U) != 0) keys.push_back(i);
      if (decide(keys, group_of_cell)) return keys;
    }
    return std::nullopt;
  }

  [[nodiscard]] std::vector<std::uint32_t> codes_of(std::size_t cell,
                                                    const std::vector<std::size_t>& keys) const {
    std::vector<std::uint32_t> codes;
    for (const std::size_t key : keys) codes.push_back(cells_.codes[key][cell]);
    return codes;
  }

  [[nodiscard]] bool decide(const std::vector<std::size_t>& keys,
                            std::span<const std::uint32_t> group_of_cell) const {
    absl::flat_hash_map<std::vector<std::uint32_t>, std::uint32_t> group_of;
    absl::flat_hash_map<std::uint32_t, std::vector<std::uint32_t>> codes_of_group;
    for (std::size_t cell = 0; cell < group_of_cell.size(); ++cell) {
      const std::vector<std::uint32_t> codes = codes_of(cell, keys);
      if (group_of.emplace(codes, group_of_cell[cell]).first->second != group_of_cell[cell]) return false;
      if (codes_of_group.emplace(group_of_cell[cell], codes).first->second != codes) return false;
    }
    return true;
  }

  OrError<expression::Values> by_keys(const std::vector<std::size_t>& keys,
                                      std::span<const std::uint32_t> group_of_cell, std::uint32_t groups,
                                      expression::FaultCount* faults) const {
    std::vector<SqlKey> chosen;
    for (const std::size_t key : keys) chosen.push_back(keys_[key]);
    PEAR_ASSIGN(const GroupedLines read, group_lines(lines_, chosen, {figure_}));
    absl::flat_hash_map<std::vector<std::uint32_t>, std::uint32_t> row_of;
    for (std::uint32_t row = 0; row < read.groups; ++row) {
      std::vector<std::uint32_t> codes;
      for (const auto& of_key : read.codes) codes.push_back(of_key[row]);
      row_of.emplace(std::move(codes), row);
    }
    std::vector<std::uint32_t> rows(groups, kNoRow);
    for (std::size_t cell = 0; cell < group_of_cell.size(); ++cell)
      rows[group_of_cell[cell]] = row_of.at(codes_of(cell, keys));
    return of_rows(read, rows, faults);
  }

  /// By a list of the cells of each group, as part of the statement.
  OrError<expression::Values> by_list(std::span<const std::uint32_t> group_of_cell, std::uint32_t groups,
                                      expression::FaultCount* faults) const {
    constexpr std::size_t kMost = 20'000;
    if (group_of_cell.size() > kMost)
      return usage_error(fmt::format(
          "the figure {} of {} combined cells cannot be computed in a database. Leave out --keep, or select "
          "fewer lines.",
          in_quotes(figure_.name()), with_thousands(static_cast<std::int64_t>(group_of_cell.size()))));
    std::string list, same;
    for (std::size_t cell = 0; cell < group_of_cell.size(); ++cell) {
      list += list.empty() ? "VALUES (" : ", (";
      for (std::size_t key = 0; key < keys_.size(); ++key)
        list += literal(cells_.keys[key], cells_.codes[key][cell]) + ", ";
      list += fmt::format("{})", group_of_cell[cell]);
    }
    for (std::size_t key = 0; key < keys_.size(); ++key)
      same +=
          (key == 0 ? "" : " AND ") + lines_.scope.dialect.same(fmt::format("pear_cells.column{}", key + 1),
                                                                keys_[key].shown_of(keys_[key].sql));
    SqlKey group;
    group.key.type = expression::ValueType::text;
    group.sql = fmt::format("CAST(pear_group AS {})", lines_.scope.dialect.text_type());
    PEAR_ASSIGN(const GroupedLines read,
                group_lines(lines_, {group}, {figure_},
                            fmt::format("(SELECT pear_lines.*, pear_cells.column{} AS pear_group FROM "
                                        "pear_lines JOIN ({}) AS pear_cells ON {}) "
                                        "AS pear_lines",
                                        keys_.size() + 1, list, same)));
    std::vector<std::uint32_t> rows(groups, kNoRow);
    for (std::uint32_t row = 0; row < read.groups; ++row)
      rows[static_cast<std::size_t>(std::stoul(expression::label_text(read.keys[0], read.codes[0][row])))] =
          row;
    return of_rows(read, rows, faults);
  }

  /// A value of a key, as SQL.
  [[nodiscard]] std::string literal(const GroupKey& key, std::uint32_t code) const {
    const Dialect& dialect = lines_.scope.dialect;
    if (const auto* date = std::get_if<daybook::DateValues>(&key.labels))
      return code == key.distinct ? "CAST(NULL AS date)" : dialect.date_literal(Date{date->days[code]});
    if (const auto* text = std::get_if<daybook::TextValues>(&key.labels))
      return code == key.distinct ? "NULL" : text_literal(text->dictionary[code]);
    if (code == key.distinct) return "CAST(NULL AS BIGINT)";
    if (const auto* time = std::get_if<daybook::TimeValues>(&key.labels))
      return dialect.integer_literal(time->seconds[code]);
    return dialect.integer_literal(std::get<daybook::DecimalValues>(key.labels).units[code]);
  }

  OrError<expression::Values> of_rows(const GroupedLines& read, const std::vector<std::uint32_t>& rows,
                                      expression::FaultCount* faults) const {
    std::vector<daybook::ColumnValues> columns;
    for (std::size_t i = 0; i < figure_.aggregates().size(); ++i)
      columns.push_back(
          picked(read.aggregates.front()[i], rows, is_zero_without_lines(figure_.aggregates()[i])));
    return figure_.of_aggregates(columns, static_cast<std::uint32_t>(rows.size()), faults);
  }

  const GroupedExpression& figure_;
  const SelectedLines& lines_;
  const std::vector<SqlKey>& keys_;
  const GroupedLines& cells_;
  bool adds_up_ = false;
  mutable std::optional<std::vector<daybook::ColumnValues>> of_cells_;  ///< by aggregate, then by cell
};

}  // namespace

OrError<SqlCells> SqlCells::read(const SelectedLines& lines, std::vector<SqlKey> keys, std::size_t down) {
  SqlCells cells(lines, std::move(keys));
  PEAR_ASSIGN(cells.cells_, group_lines(lines, cells.keys_, {}));
  cells.labels_ = cells.cells_.keys;
  cells.codes_ = cells.cells_.codes;
  for (std::size_t i = 0; i < cells.labels_.size(); ++i) {
    if ((i < down ? down : cells.labels_.size() - down) != 1) continue;
    expression::GroupKey& key = cells.labels_[i];
    key.codes = std::move(cells.codes_[i]);
    analysis::fill_times(key);
    cells.codes_[i] = std::move(key.codes);
  }
  return cells;
}

OrError<std::vector<std::uint64_t>> SqlCells::empty_values(
    const std::vector<const expression::Aggregate*>& aggregates) const {
  std::vector<GroupedExpression> figures;
  std::vector<std::size_t> asked;
  for (std::size_t i = 0; i < aggregates.size(); ++i) {
    if (aggregates[i]->node().args.empty()) continue;
    PEAR_ASSIGN(GroupedExpression figure,
                without_value(aggregates[i]->node().args.front(), aggregates[i]->level(), lines_));
    figures.push_back(std::move(figure));
    asked.push_back(i);
  }
  std::vector<std::uint64_t> counts(aggregates.size());
  if (figures.empty()) return counts;
  PEAR_ASSIGN(const GroupedLines all, group_lines(lines_, {}, figures));
  for (std::size_t i = 0; i < asked.size(); ++i)
    counts[asked[i]] = static_cast<std::uint64_t>(all.figures[i].numbers[0] / Decimal::kScale);
  return counts;
}

std::unique_ptr<expression::FigureOfCells> SqlCells::figure(const GroupedExpression& figure) const {
  return std::make_unique<SqlFigure>(figure, lines_, keys_, cells_);
}

}  // namespace pear::pushdown
