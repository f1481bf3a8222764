#include "pushdown/questions/distinct.hpp"

#include <utility>

#include <fmt/format.h>

#include "expression/syntax/parse.hpp"
#include "questions/distinct/question.hpp"

namespace pear::pushdown {
namespace {

using expression::GroupedExpression;
using expression::Node;
using expression::Op;

/// Of lines that are neither returns nor fees.
std::string of_purchases(const SelectedLines& lines) {
  return !lines.scope.warehouse.fees ? "FILTER (WHERE NOT is_return)"
                                     : "FILTER (WHERE NOT is_return AND NOT is_fee)";
}

/// COUNT(DISTINCT ...) of what is counted, in purchases.
OrError<GroupedExpression> distinct_of(const std::optional<expression::Tree>& counted,
                                       const SelectedLines& lines) {
  const auto is_id = [&](std::string_view id) {
    return counted && counted->root.op == Op::column && counted->root.text == id;
  };
  for (const std::string_view id :
       {daybook::role::kCustomerId, daybook::role::kOrderId, daybook::role::kProductId})
    if (is_id(id) || (!counted && id == daybook::role::kProductId))
      return figure_of(fmt::format("COUNT(DISTINCT {}) {}", id, of_purchases(lines)), lines);
  PEAR_ASSIGN(expression::Tree tree,
              expression::parse_tree("COUNT(DISTINCT order_date) " + of_purchases(lines)));
  tree.root.op = Op::count_distinct;
  tree.root.args = {counted->root};
  return GroupedExpression::compile(tree, lines.scope.schema);
}

OrError<SqlKey> counted_key(const std::optional<expression::Tree>& counted, const SelectedLines& lines) {
  if (!counted) return id_key(daybook::Level::product);
  if (counted->text == daybook::role::kOrderId) return id_key(daybook::Level::order);
  PEAR_ASSIGN(std::vector<SqlKey> keys, keys_of("count", {*counted}, lines));
  return std::move(keys.front());
}

std::uint32_t count_at(const expression::Values& values, std::uint32_t group) {
  return static_cast<std::uint32_t>(values.numbers[group] / Decimal::kScale);
}

/// The values of each cell, with their days, orders and amounts. Only returns are none.
OrError<std::vector<distinct::Member>> list_members(const std::vector<SqlKey>& per, const SqlKey& counted,
                                                    const SelectedLines& lines, distinct::Keys& cells) {
  if (counted.key.level == daybook::Level::order && counted.sql == daybook::role::kOrderId)
    return usage_error(
        "a database does not list orders: their order in time is not known there. Import the lines, or leave "
        "out --list.");
  std::vector<SqlKey> keys = per;
  keys.push_back(counted);
  std::vector<GroupedExpression> figures;
  const std::string filter = of_purchases(lines);
  for (const std::string& text : {"MIN(order_date) " + filter, "MAX(order_date) " + filter,
                                  "COUNT(DISTINCT order_id) " + filter, std::string("SUM(amount)")}) {
    PEAR_ASSIGN(GroupedExpression figure, figure_of(text, lines));
    figures.push_back(std::move(figure));
  }
  PEAR_ASSIGN(GroupedLines grouped,
              group_lines(lines, keys, figures, lines_where(fmt::format("({}) IS NOT NULL", counted.sql))));
  std::vector<distinct::Member> members;
  std::uint32_t cell = 0;
  const auto is_in_cell = [&](std::uint32_t group) {
    for (std::size_t i = 0; i < per.size(); ++i)
      if (expression::label_text(cells.per[i], cells.codes[i][cell]) !=
          expression::label_text(grouped.keys[i], grouped.codes[i][group]))
        return false;
    return true;
  };
  for (std::uint32_t group = 0; group < grouped.groups; ++group) {
    while (!is_in_cell(group)) ++cell;  // both are in order, and each group is in a cell
    if (grouped.figures[0].states[group] != expression::ValueState::filled) continue;
    const auto day_of = [&](std::size_t figure) {
      return static_cast<std::int32_t>(grouped.figures[figure].numbers[group]);
    };
    distinct::Member member{cell,      grouped.codes.back()[group],         day_of(0),
                            day_of(1), count_at(grouped.figures[2], group), {}};
    member.amount.add(Decimal::from_units(grouped.figures[3].numbers[group]));
    members.push_back(member);
  }
  cells.counted = std::move(grouped.keys.back());
  return members;
}

}  // namespace

OrError<result::Result> answer_distinct(const analysis::OptionValues& values, const SelectedLines& lines,
                                        const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const distinct::Options options,
              analysis::read_options(distinct::option_declarations(), values));
  PEAR_ASSIGN(const SqlKey counted, counted_key(options.count, lines));
  PEAR_ASSIGN(const std::vector<SqlKey> per, keys_of("per", options.per, lines));
  PEAR_ASSIGN(GroupedExpression distinct, distinct_of(options.count, lines));
  PEAR_ASSIGN(GroupedExpression orders, figure_of("COUNT(DISTINCT order_id) " + of_purchases(lines), lines));
  PEAR_ASSIGN(GroupedExpression purchases, figure_of("COUNT(*) " + of_purchases(lines), lines));
  PEAR_ASSIGN(GroupedLines cells,
              group_lines(lines, per, {std::move(distinct), std::move(orders), std::move(purchases)}));
  distinct::Counts counts{options, input.daybook, {}, 0, {}, {}, {}};
  counts.keys = {counted.key, std::move(cells.keys), cells.groups, {}, std::move(cells.codes)};
  for (std::uint32_t cell = 0; cell < cells.groups; ++cell)
    counts.facts.push_back({count_at(cells.figures[0], cell), count_at(cells.figures[1], cell),
                            count_at(cells.figures[2], cell)});
  counts.rows = distinct::ordered_rows(counts.keys, counts.facts);
  if (options.count) {
    PEAR_ASSIGN(GroupedExpression without, without_value(options.count->root, counted.key.level, lines));
    PEAR_ASSIGN(const GroupedLines all, group_lines(lines, {}, {std::move(without)}));
    counts.without_value = count_at(all.figures.front(), 0);
  }
  if (options.list) {
    PEAR_ASSIGN(counts.members, list_members(per, counted, lines, counts.keys));
  }
  if (lines.session.explains()) return result::Result{};
  return distinct::result_of(counts, input);
}

}  // namespace pear::pushdown
