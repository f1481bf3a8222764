#include "pushdown/grouped_lines.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include <absl/strings/str_replace.h>
#include <fmt/format.h>

#include "analysis/tables/member_column.hpp"
#include "base/text.hpp"
#include "expression/aggregate/accumulators.hpp"
#include "expression/evaluate/check.hpp"
#include "expression/syntax/parse.hpp"
#include "pushdown/aggregate_in_sql.hpp"
#include "pushdown/sql_expression.hpp"

namespace pear::pushdown {
namespace {

using Row = std::vector<SqlValue>;

/// The columns of a statement's answer: keys, values, and the number of lines if it is the first.
std::vector<std::string> columns_of(const GroupStatement& statement, std::size_t keys, bool is_first) {
  std::vector<std::string> columns;
  for (std::size_t i = 0; i < keys; ++i) columns.push_back(fmt::format("k{}", i));
  for (std::size_t i = 0; i < statement.values; ++i) columns.push_back(fmt::format("v{}", i));
  if (is_first) columns.emplace_back("n");
  return columns;
}

/// A statement whose keys are as they are shown.
std::string with_shown_keys(const GroupStatement& statement, const std::vector<SqlKey>& keys, bool is_first) {
  if (std::all_of(keys.begin(), keys.end(), [](const SqlKey& key) { return key.shown.empty(); }))
    return statement.select;
  std::vector<std::string> columns = columns_of(statement, keys.size(), is_first);
  for (std::size_t i = 0; i < keys.size(); ++i)
    if (!keys[i].shown.empty())
      columns[i] = fmt::format("{} AS {}", keys[i].shown_of(columns[i]), columns[i]);
  return fmt::format("SELECT {} FROM ({}) AS pear_groups", join(columns, ", "), statement.select);
}

/// One value of a sum or a mean that is out of range fails, as it does over a daybook.
OrError<std::int64_t> in_range(Int128 value) {
  if (value > INT64_MAX || value <= INT64_MIN)
    return data_error(
        "a figure adds up to more than 922,337,203,685,477, the largest number that is possible.");
  return static_cast<std::int64_t>(value);
}

/// The value of a sum, a count, a mean or a value between two, in units; kEmptyUnits for none.
OrError<std::int64_t> number_of(AnswerKind kind, const SqlValue* values, std::int64_t share) {
  PEAR_ASSIGN(const Int128 first, whole(values[0]));
  if (kind == AnswerKind::count) return in_range(first * Decimal::kScale);
  if (kind == AnswerKind::sum) return in_range(first);
  if (!values[0]) return daybook::kEmptyUnits;
  if (kind == AnswerKind::mean) {
    PEAR_ASSIGN(const std::int64_t count, whole64(values[1]));
    return count == 0 ? OrError<std::int64_t>(daybook::kEmptyUnits) : in_range(divided_evenly(first, count));
  }
  PEAR_ASSIGN(const std::int64_t low, in_range(first));
  PEAR_ASSIGN(const std::int64_t high, whole64(values[1]));
  PEAR_ASSIGN(const std::int64_t count, whole64(values[2]));
  const std::int64_t rest = share * (count - 1) % Decimal::kScale;
  return rest == 0 ? low : expression::between(low, high, rest);
}

/// The answers of one aggregate, by group; NULL where a statement has no row for a group.
OrError<daybook::ColumnValues> aggregate_column(const expression::Aggregate& aggregate,
                                                const std::vector<Row>& answers) {
  const AnswerKind kind = answer_kind_of(aggregate);
  if (kind == AnswerKind::extreme) {
    std::vector<SqlValue> values;
    for (const Row& row : answers) values.push_back(row[0]);
    return column_of(aggregate.type(), values);
  }
  const expression::Node& node = aggregate.node();
  const std::int64_t share = node.op == expression::Op::percentile ? node.number : Decimal::kScale / 2;
  daybook::DecimalValues numbers;
  for (const Row& row : answers) {
    PEAR_ASSIGN(const std::int64_t number, number_of(kind, row.data(), share));
    numbers.units.push_back(number);
  }
  return numbers;
}

/// Runs the statements of one grouping, and brings their answers together.
class Grouper {
 public:
  Grouper(const SelectedLines& lines, const std::vector<SqlKey>& keys) : lines_(lines), keys_(keys) {}

  OrError<void> run(const std::vector<const expression::Aggregate*>& aggregates, const std::string& from) {
    std::vector<std::string> sql;
    for (const SqlKey& key : keys_) sql.push_back(key.sql);
    PEAR_ASSIGN(const std::vector<GroupStatement> statements,
                statements_of(sql, aggregates, from, lines_.scope));
    PEAR_TRY(read_groups(statements.front()));
    answers_.resize(aggregates.size());
    for (std::size_t i = 0; i < aggregates.size(); ++i)
      answers_[i].assign(made_.groups, Row(answer_size_of(answer_kind_of(*aggregates[i]))));
    for (std::size_t i = 0; i < statements.size(); ++i)
      PEAR_TRY(read_answers(statements[i], i == 0, aggregates));
    for (std::size_t i = 0; i < aggregates.size(); ++i) {
      PEAR_ASSIGN(daybook::ColumnValues column, aggregate_column(*aggregates[i], answers_[i]));
      columns_.push_back(std::move(column));
    }
    return {};
  }

  GroupedLines take() { return std::move(made_); }
  [[nodiscard]] const std::vector<daybook::ColumnValues>& columns() const { return columns_; }

 private:
  /// The groups that occur, in the order of their codes.
  OrError<void> read_groups(const GroupStatement& statement) {
    PEAR_ASSIGN(first_, lines_.session.rows(lines_.with, with_shown_keys(statement, keys_, true),
                                            columns_of(statement, keys_.size(), true)));
    // A statement that is only explained has no rows; without keys there is one group.
    if (first_.empty() && keys_.empty()) first_.emplace_back(statement.values + 1);
    made_.groups = static_cast<std::uint32_t>(first_.size());
    for (std::size_t i = 0; i < keys_.size(); ++i) {
      std::vector<SqlValue> values;
      for (const Row& row : first_) values.push_back(row[i]);
      made_.keys.push_back(keys_[i].key);
      PEAR_ASSIGN(std::vector<std::uint32_t> codes, code_values(values, made_.keys.back()));
      made_.codes.push_back(std::move(codes));
    }
    std::vector<std::uint32_t> order(first_.size());
    std::iota(order.begin(), order.end(), 0U);
    std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
      for (const auto& codes : made_.codes)
        if (codes[a] != codes[b]) return codes[a] < codes[b];
      return false;
    });
    std::vector<Row> sorted;
    for (auto& codes : made_.codes) {
      const std::vector<std::uint32_t> before = codes;
      for (std::size_t i = 0; i < order.size(); ++i) codes[i] = before[order[i]];
    }
    for (const std::uint32_t row : order) sorted.push_back(std::move(first_[row]));
    first_ = std::move(sorted);
    for (std::uint32_t group = 0; group < made_.groups; ++group) {
      PEAR_ASSIGN(const std::int64_t count, whole64(first_[group].back()));
      made_.lines.push_back(static_cast<std::uint64_t>(count));
      made_.group_of.emplace(
          Row(first_[group].begin(), first_[group].begin() + static_cast<std::ptrdiff_t>(keys_.size())),
          group);
    }
    return {};
  }

  OrError<void> read_answers(const GroupStatement& statement, bool is_first,
                             const std::vector<const expression::Aggregate*>& aggregates) {
    SqlRows rows;
    if (!is_first) {
      PEAR_ASSIGN(rows, lines_.session.rows(lines_.with, with_shown_keys(statement, keys_, false),
                                            columns_of(statement, keys_.size(), false)));
    }
    for (const Row& row : is_first ? first_ : rows) {
      const auto group =
          made_.group_of.find(Row(row.begin(), row.begin() + static_cast<std::ptrdiff_t>(keys_.size())));
      if (group == made_.group_of.end()) continue;
      auto value = row.begin() + static_cast<std::ptrdiff_t>(keys_.size());
      for (const std::size_t i : statement.aggregates)
        for (std::size_t part = 0; part < answer_size_of(answer_kind_of(*aggregates[i])); ++part)
          answers_[i][group->second][part] = *value++;
    }
    return {};
  }

  const SelectedLines& lines_;
  const std::vector<SqlKey>& keys_;
  GroupedLines made_;
  SqlRows first_;
  std::vector<std::vector<Row>> answers_;  ///< by aggregate, then by group
  std::vector<daybook::ColumnValues> columns_;
};

/// A quarter, month or week is grouped by its first day, and shown by its label.
void by_start(std::string_view name, const LineScope& scope, SqlKey& key) {
  const auto& stored = scope.warehouse.columns;
  if (std::any_of(stored.begin(), stored.end(),
                  [&](const WarehouseColumn& column) { return column.name == name; }))
    return;
  for (const auto& [label, of] : {std::pair(DayLabel::quarter, "quarter"),
                                  std::pair(DayLabel::month, "month"), std::pair(DayLabel::week, "week")}) {
    const std::string day(daybook::role::kOrderDate), start = scope.dialect.start_of(label, day);
    if (name != of || start == day) continue;
    key.sql = start;
    key.shown = scope.dialect.label_of(label, std::string(kKeyName));
  }
}

}  // namespace

bool GroupedLines::same_first(std::uint32_t a, std::uint32_t b, std::size_t keys_compared) const {
  for (std::size_t i = 0; i < keys_compared; ++i)
    if (codes[i][a] != codes[i][b]) return false;
  return true;
}

std::string SqlKey::shown_of(const std::string& of_key) const {
  return shown.empty() ? of_key : absl::StrReplaceAll(shown, {{std::string(kKeyName), of_key}});
}

SqlKey id_key(daybook::Level level) {
  const std::string_view name = level == daybook::Level::customer ? daybook::role::kCustomerId
                                : level == daybook::Level::order  ? daybook::role::kOrderId
                                                                  : daybook::role::kProductId;
  SqlKey key;
  key.key.source = name;
  key.key.level = level;
  key.key.grain = expression::grain_of(level);
  key.key.type = expression::ValueType::text;
  key.sql = name;
  return key;
}

OrError<std::vector<SqlKey>> keys_of(const std::string& option, const std::vector<expression::Tree>& trees,
                                     const SelectedLines& lines) {
  const SqlScope scope{lines.scope.dialect, lines.scope.schema.schema()};
  PEAR_ASSIGN(std::vector<expression::GroupKey> keys, analysis::keys_of(option, trees, lines.scope.schema));
  std::vector<SqlKey> made;
  for (std::size_t i = 0; i < trees.size(); ++i) {
    auto sql = sql_of(trees[i].root, scope);
    if (!sql)
      return tl::unexpected(Error{sql.error().kind, fmt::format("--{}: {}", option, sql.error().message)});
    if (keys[i].type == expression::ValueType::truth)
      *sql = fmt::format("CASE WHEN {0} THEN 'true' WHEN NOT {0} THEN 'false' END", *sql);
    keys[i].codes.clear();
    made.push_back({std::move(keys[i]), std::move(*sql)});
    if (trees[i].root.op == expression::Op::column) by_start(trees[i].root.text, lines.scope, made.back());
  }
  return made;
}

OrError<GroupedLines> group_lines(const SelectedLines& lines, const std::vector<SqlKey>& keys,
                                  const std::vector<expression::GroupedExpression>& figures,
                                  const std::string& from) {
  std::vector<const expression::Aggregate*> aggregates;
  for (const expression::GroupedExpression& figure : figures)
    for (const expression::Aggregate& aggregate : figure.aggregates()) aggregates.push_back(&aggregate);
  Grouper grouper(lines, keys);
  PEAR_TRY(grouper.run(aggregates, from));
  GroupedLines made = grouper.take();
  auto next = grouper.columns().begin();
  for (const expression::GroupedExpression& figure : figures) {
    const auto end = next + static_cast<std::ptrdiff_t>(figure.aggregates().size());
    made.aggregates.emplace_back(next, end);
    made.figures.push_back(figure.of_aggregates(made.aggregates.back(), made.groups));
    next = end;
  }
  return made;
}

OrError<expression::GroupedExpression> without_value(const expression::Node& expression, daybook::Level level,
                                                     const SelectedLines& lines) {
  expression::Tree tree;
  tree.name = tree.text = "without a value";
  tree.root.op = level == daybook::Level::line ? expression::Op::count_rows : expression::Op::count_members;
  tree.root.number = static_cast<std::int64_t>(level);
  tree.root.filter.emplace_back();
  tree.root.filter.front().op = expression::Op::is_null;
  tree.root.filter.front().args = {expression};
  return expression::GroupedExpression::compile(tree, lines.scope.schema);
}

std::string with_first_days() {
  return "SELECT pear_lines.*, MIN(CASE WHEN NOT is_return THEN order_date END) OVER (PARTITION BY "
         "customer_id) AS "
         "first_day FROM pear_lines";
}

std::string lines_where(const std::string& condition) {
  return fmt::format("(SELECT * FROM pear_lines WHERE {}) AS pear_lines", condition);
}

OrError<expression::GroupedExpression> figure_of(const std::string& text, const SelectedLines& lines) {
  PEAR_ASSIGN(const expression::Tree tree, expression::parse_tree(text));
  return expression::GroupedExpression::compile(tree, lines.scope.schema);
}

}  // namespace pear::pushdown
