#include "expression/aggregate/grouped.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "expression/aggregate/measure.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::expression {
namespace {

/// Replaces the names of figures by their definitions.
OrError<void> expand(Node& node, const std::vector<Tree>& known) {
  if (node.op == Op::column) {
    const auto named =
        std::find_if(known.begin(), known.end(), [&](const Tree& tree) { return tree.name == node.text; });
    const std::string_view ready = ready_figure(node.text);
    if (named != known.end()) {
      const std::size_t at = node.at;
      node = named->root;
      node.at = at;
    } else if (!ready.empty()) {
      const std::size_t at = node.at;
      PEAR_ASSIGN(const Tree tree, parse_tree(ready));
      node = tree.root;
      node.at = at;
      return {};
    } else {
      return {};
    }
    return expand(node, {});  // a definition may use ready figures, but no further names
  }
  if (is_aggregate(node.op)) return {};
  for (Node& arg : node.args) PEAR_TRY(expand(arg, known));
  return {};
}

/// Adds a condition to the FILTER of each aggregate.
void add_filter(Node& node, const Node& condition) {
  if (!is_aggregate(node.op)) {
    for (Node& arg : node.args) add_filter(arg, condition);
    return;
  }
  if (node.filter.empty()) {
    node.filter.push_back(condition);
    return;
  }
  Node both;
  both.op = Op::both;
  both.args = {std::move(node.filter.front()), condition};
  node.filter.front() = std::move(both);
}

/// Cuts the aggregates out of a tree, and leaves columns instead of them.
class AggregateCutter {
 public:
  explicit AggregateCutter(const LineView& lines) : lines_(lines) {}

  OrError<void> cut(Node& node) {
    if (is_aggregate(node.op)) return replace(node);
    if (node.op == Op::column) {
      if (lines_.schema().find(node.text) == lines_.schema().columns.size()) {
        std::vector<std::string> known;
        for (const ViewColumn& column : lines_.schema().columns) known.push_back(column.name);
        return usage_error(fmt::format("there is no column or figure {}.{} (column {})", in_quotes(node.text),
                                       did_you_mean(node.text, known), node.at));
      }
      return usage_error(
          fmt::format("{} has many values in a cell: write sum({}), max({}) or another aggregate, or use it "
                      "in --down or --across (column {})",
                      in_quotes(node.text), node.text, node.text, node.at));
    }
    for (Node& arg : node.args) PEAR_TRY(cut(arg));
    return {};
  }

  std::vector<Aggregate> aggregates;
  std::vector<std::string> names;

 private:
  OrError<void> replace(Node& node) {
    PEAR_ASSIGN(Aggregate aggregate, Aggregate::compile(node, lines_));
    Node column;
    column.op = Op::column;
    column.at = node.at;
    column.text = fmt::format("aggregate {}", aggregates.size());
    names.push_back(column.text);
    aggregates.push_back(std::move(aggregate));
    node = std::move(column);
    return {};
  }

  const LineView& lines_;
};

/// An empty array of a type: what a view needs to check types.
daybook::ColumnValues no_values(ValueType type) {
  switch (type) {
    case ValueType::date:
      return daybook::DateValues{};
    case ValueType::time:
      return daybook::TimeValues{};
    case ValueType::text:
      return daybook::TextValues{};
    default:
      return daybook::DecimalValues{};
  }
}

bool is_linear(const Node& node) {
  if (is_aggregate(node.op)) return true;
  const bool joins = node.op == Op::add || node.op == Op::subtract || node.op == Op::negate;
  return joins && std::all_of(node.args.begin(), node.args.end(), is_linear);
}

}  // namespace

OrError<GroupedExpression> GroupedExpression::compile(const Tree& tree, const LineView& lines,
                                                      const std::vector<Tree>& known,
                                                      const std::optional<Node>& filter) {
  Node root = tree.root;
  PEAR_TRY(expand(root, known));
  if (filter) add_filter(root, *filter);
  const Measure measure = measure_of(root);
  const bool linear = is_linear(root);
  AggregateCutter cutter(lines);
  PEAR_TRY(cutter.cut(root));
  if (cutter.aggregates.empty())
    return usage_error(
        fmt::format("{} contains no aggregate: it needs one such as sum(amount)", in_quotes(tree.text)));
  std::vector<daybook::ColumnValues> types;
  for (const Aggregate& aggregate : cutter.aggregates) types.push_back(no_values(aggregate.type()));
  RowView view;
  for (std::size_t i = 0; i < types.size(); ++i)
    view.columns.push_back({cutter.names[i], &types[i], nullptr});
  view.data_end = lines.schema().data_end;
  PEAR_ASSIGN(Expression outer, Expression::compile(root, tree.text, view));
  GroupedExpression figure(std::move(outer));
  figure.name_ = tree.name;
  figure.measure_ = measure;
  figure.is_linear_ = linear;
  figure.aggregates_ = std::move(cutter.aggregates);
  return figure;
}

bool GroupedExpression::adds_up(Grain parts) const {
  return is_linear_ && std::all_of(aggregates_.begin(), aggregates_.end(), [&](const Aggregate& aggregate) {
           return aggregate.adds_up() && within(parts, aggregate.grain());
         });
}

OrError<Values> GroupedExpression::by_group(const LineGroups& groups, FaultCount* faults) const {
  return by_cell(groups.cell_of_line, static_cast<std::uint32_t>(groups.group_of_cell.size()))
      .by_group(groups.group_of_cell, groups.groups, faults);
}

FigureCells GroupedExpression::by_cell(std::span<const std::uint32_t> cell_of_line,
                                       std::uint32_t cells) const {
  FigureCells of_cells(*this);
  for (const Aggregate& aggregate : aggregates_)
    of_cells.totals_.push_back(aggregate.by_cell(cell_of_line, cells));
  return of_cells;
}

Values GroupedExpression::of_aggregates(const std::vector<daybook::ColumnValues>& aggregates,
                                        std::uint32_t groups, FaultCount* faults) const {
  RowView view;
  view.rows = groups;
  for (std::size_t i = 0; i < aggregates.size(); ++i)
    view.columns.push_back({fmt::format("aggregate {}", i), &aggregates[i], nullptr});
  Values values = outer_.evaluate(view, 0, groups);
  for (std::size_t group = 0; group < values.size(); ++group) {
    if (values.states[group] != ValueState::fault) continue;
    values.states[group] = ValueState::empty;
    if (faults != nullptr && group < faults->groups) ++faults->count;
  }
  // Texts are views into columns that may be destroyed before them.
  const auto kept = std::make_shared<TextArena>();
  for (std::string_view& text : values.texts) text = kept->emplace_back(text);
  values.made = kept;
  return values;
}

OrError<Values> FigureCells::by_group(std::span<const std::uint32_t> group_of_cell, std::uint32_t groups,
                                      FaultCount* faults) const {
  std::vector<daybook::ColumnValues> aggregates;
  for (const CellTotals& totals : totals_) {
    PEAR_ASSIGN(daybook::ColumnValues column, totals.by_group(group_of_cell, groups));
    aggregates.push_back(std::move(column));
  }
  return figure_.of_aggregates(aggregates, groups, faults);
}

}  // namespace pear::expression
