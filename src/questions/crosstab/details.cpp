#include "questions/crosstab/details.hpp"

#include <algorithm>
#include <array>
#include <limits>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/member_column.hpp"
#include "base/text.hpp"
#include "daybook/select.hpp"

namespace pear::crosstab {
namespace {

constexpr std::uint32_t kAny = std::numeric_limits<std::uint32_t>::max();

/// The codes that a cell must have, by key of both axes; kAny for a total.
using Codes = std::vector<std::uint32_t>;

OrError<std::uint32_t> code_of(const std::string& name, const expression::GroupKey& key,
                               const std::string& value) {
  std::vector<std::string> labels;
  for (std::uint32_t code = 0; code <= key.distinct; ++code)
    labels.push_back(expression::label_text(key, code));
  const auto found = std::find(labels.begin(), labels.end(), value);
  if (found == labels.end())
    return usage_error(
        fmt::format("--details: no {} is {}.{}", name, in_quotes(value), did_you_mean(value, labels)));
  return static_cast<std::uint32_t>(found - labels.begin());
}

OrError<Codes> wanted_codes(const Crosstab& crosstab) {
  std::vector<std::string> names;
  std::vector<const expression::GroupKey*> keys;
  for (const Axis* axis : {&crosstab.down(), &crosstab.across()}) {
    for (std::size_t i = 0; i < axis->depth(); ++i) {
      names.push_back(axis->names[i]);
      keys.push_back(&axis->keys[i]);
    }
  }
  Codes codes(names.size(), kAny);
  for (const auto& [name, value] : crosstab.options().details) {
    const auto found = std::find_if(
        names.begin(), names.end(),
        [&, wanted = snake_case(name)](const std::string& each) { return snake_case(each) == wanted; });
    if (found == names.end())
      return usage_error(fmt::format("--details: {} is neither in --down nor in --across.{}", in_quotes(name),
                                     did_you_mean(name, names)));
    const auto key = static_cast<std::size_t>(found - names.begin());
    PEAR_ASSIGN(codes[key], code_of(names[key], *keys[key], value));
  }
  return codes;
}

std::vector<std::uint8_t> lines_with(const Codes& codes, const expression::Grouping& grouping) {
  std::vector<std::uint8_t> in_cell(grouping.cells, 1);
  for (std::size_t key = 0; key < codes.size(); ++key) {
    for (std::uint32_t cell = 0; cell < grouping.cells; ++cell) {
      if (codes[key] != kAny && grouping.codes[key][cell] != codes[key]) in_cell[cell] = 0;
    }
  }
  std::vector<std::uint8_t> chosen(grouping.cell_of_line.size());
  for (std::size_t line = 0; line < chosen.size(); ++line)
    chosen[line] = in_cell[grouping.cell_of_line[line]];
  return chosen;
}

/// A column of the lines as a column of a table.
result::TableColumn shown_column(const expression::ViewColumn& column, std::size_t rows) {
  std::vector<std::uint32_t> members(rows);
  for (std::size_t row = 0; row < rows; ++row) members[row] = column.member(row);
  return analysis::member_column(column.name, fmt::format("{} of the line.", column.name), *column.values,
                                 members);
}

/// Ids, date, quantity, price and amount, and the other columns that the question uses.
result::Table table_of(const expression::LineView& lines) {
  result::Table table{"details", "Lines of the cell", "One row for each line.", {}};
  table.most_shown = 10;
  const expression::RowView& view = lines.rows();
  constexpr std::array<std::string_view, 7> kFirst = {"order_id", "order_date", "customer_id", "product_id",
                                                      "quantity", "unit_price", "amount"};
  for (const std::string_view name : kFirst) {
    const std::size_t position = view.find(name);
    if (position < view.columns.size())
      table.columns.push_back(shown_column(view.columns[position], view.rows));
  }
  for (const expression::ViewColumn& column : view.columns) {
    if (std::find(kFirst.begin(), kFirst.end(), column.name) == kFirst.end())
      table.columns.push_back(shown_column(column, view.rows));
  }
  return table;
}

/// The places of the axes that the codes name, if they name one: keys from the outside in.
std::optional<std::uint32_t> place_of(const Axis& axis, const Codes& codes, std::size_t first) {
  std::uint32_t place = 0;
  bool ended = false;
  for (std::size_t i = 0; i < axis.depth(); ++i) {
    const std::uint32_t code = codes[first + i];
    if (code == kAny) {
      ended = true;
      continue;
    }
    if (ended) return std::nullopt;
    const auto& children = axis.places[place].children;
    const auto child = std::find_if(children.begin(), children.end(),
                                    [&](std::uint32_t each) { return axis.places[each].code == code; });
    if (child == children.end()) return std::nullopt;
    place = *child;
  }
  return place;
}

}  // namespace

OrError<void> add_details(const Crosstab& crosstab, const expression::Grouping& grouping,
                          const expression::LineView& lines,
                          const std::map<std::string, expression::Grain>& grains, result::Result& result) {
  PEAR_ASSIGN(const Codes codes, wanted_codes(crosstab));
  const std::vector<std::uint8_t> chosen = lines_with(codes, grouping);
  if (std::find(chosen.begin(), chosen.end(), 1) == chosen.end())
    return usage_error("--details: no line is in this cell.");
  const daybook::Daybook part = daybook::select_lines(lines.daybook(), chosen);
  const expression::LineView part_lines(part, grains);
  result.tables.push_back(table_of(part_lines));
  const auto down = place_of(crosstab.down(), codes, 0);
  const auto across = place_of(crosstab.across(), codes, crosstab.down().depth());
  if (!down || !across) return {};
  const std::vector<std::uint32_t> one_cell(part.lines(), 0);
  const std::vector<std::uint32_t> one_group = {0};
  for (std::size_t i = 0; i < crosstab.figures().size(); ++i) {
    PEAR_ASSIGN(const expression::GroupedExpression figure,
                expression::GroupedExpression::compile(crosstab.options().figures[i], part_lines));
    PEAR_ASSIGN(const expression::Values values, figure.by_group({one_cell, one_group, 1}));
    const CubeCell cell = crosstab.figure(i, *down, *across);
    const bool filled = values.states[0] == expression::ValueState::filled;
    const bool same_text =
        figure.type() != expression::ValueType::text || !filled || values.texts[0] == cell.text;
    const bool same_number =
        figure.type() == expression::ValueType::text || !filled || values.numbers[0] == cell.number;
    result.checks.push_back({fmt::format("{} of the listed {} equals that of the cell", figure.name(),
                                         counted(part.lines(), "line")),
                             filled == cell.filled && same_text && same_number});
  }
  return {};
}

}  // namespace pear::crosstab
