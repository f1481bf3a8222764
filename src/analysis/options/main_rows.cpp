#include "analysis/options/main_rows.hpp"

#include <algorithm>
#include <cmath>
#include <deque>
#include <numeric>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "base/text.hpp"
#include "daybook/column.hpp"
#include "expression/expression.hpp"

namespace pear::analysis {
namespace {

/// Ends the name of the column with a share rounded down. The column with the name itself is rounded up.
constexpr std::string_view kRoundedDown = " rounded down";

/// Rounds to four decimals, towards one side. Comparing x with a number of four decimals gives the same as
/// comparing x rounded up with <= and >, and x rounded down with < and >=.
std::int64_t rounded(double share, bool down) {
  constexpr double kSlack = 1e-7;  // 0.07 x 10,000 is 700.0000000000001
  if (!std::isfinite(share)) return daybook::kEmptyUnits;
  const double units = share * Decimal::kScale;
  return static_cast<std::int64_t>(down ? std::floor(units + kSlack) : std::ceil(units - kSlack));
}

daybook::ColumnValues values_of(const result::TableColumn& column, bool down) {
  if (column.unit == result::Unit::text) {
    daybook::TextValues texts;
    for (std::size_t row = 0; row < column.size(); ++row) {
      const std::string_view text = column.text(row);
      texts.codes.push_back(text.empty() ? daybook::kEmptyCode
                                         : static_cast<std::uint32_t>(texts.dictionary.size()));
      if (!text.empty()) texts.dictionary.push_back(text);
    }
    return texts;
  }
  if (column.unit == result::Unit::date) {
    daybook::DateValues dates;
    for (std::size_t row = 0; row < column.size(); ++row)
      dates.days.push_back(column.is_empty(row) ? daybook::kEmptyDays
                                                : static_cast<std::int32_t>(column.integer(row)));
    return dates;
  }
  daybook::DecimalValues numbers;
  const bool is_whole = column.unit == result::Unit::count || column.unit == result::Unit::days;
  for (std::size_t row = 0; row < column.size(); ++row) {
    if (result::is_fraction(column.unit))
      numbers.units.push_back(rounded(column.fraction(row), down));
    else if (column.is_empty(row))
      numbers.units.push_back(daybook::kEmptyUnits);
    else
      numbers.units.push_back(column.integer(row) * (is_whole ? Decimal::kScale : 1));
  }
  return numbers;
}

/// Uses the column that is rounded down where the comparison needs it.
void choose_rounding(expression::Node& node, const result::Table& table) {
  using expression::Op;
  for (expression::Node& arg : node.args) choose_rounding(arg, table);
  if (node.op < Op::less || node.op > Op::greater_or_equal) return;
  const bool down_left = node.op == Op::less || node.op == Op::greater_or_equal;
  for (const bool left : {true, false}) {
    expression::Node& side = left ? node.args.front() : node.args.back();
    const auto column = std::find_if(table.columns.begin(), table.columns.end(),
                                     [&](const auto& each) { return each.name == side.text; });
    const bool is_share =
        side.op == Op::column && column != table.columns.end() && result::is_fraction(column->unit);
    if (is_share && down_left == left) side.text += kRoundedDown;
  }
}

OrError<std::vector<std::uint32_t>> rows_having(const expression::Tree& having, const result::Table& table) {
  expression::Node root = having.root;
  choose_rounding(root, table);
  std::deque<daybook::ColumnValues> values;
  expression::RowView view;
  view.rows = table.rows();
  for (const result::TableColumn& column : table.columns)
    view.columns.push_back({column.name, &values.emplace_back(values_of(column, false)), nullptr});
  for (const result::TableColumn& column : table.columns)
    if (result::is_fraction(column.unit))
      view.columns.push_back(
          {column.name + std::string(kRoundedDown), &values.emplace_back(values_of(column, true)), nullptr});
  const auto condition = expression::Expression::compile_condition(root, having.text, view);
  if (!condition) return in_option("having", condition.error());
  const auto holds = expression::rows_where(*condition, view);
  if (!holds) return in_option("having", holds.error());
  std::vector<std::uint32_t> rows;
  for (std::uint32_t row = 0; row < view.rows; ++row)
    if ((*holds)[row] != 0) rows.push_back(row);
  return rows;
}

OrError<std::vector<std::pair<std::size_t, bool>>> sort_columns(const std::vector<expression::SortKey>& keys,
                                                                const result::Table& table) {
  std::vector<std::string> names;
  for (const result::TableColumn& column : table.columns) names.push_back(column.name);
  std::vector<std::pair<std::size_t, bool>> by;
  for (const expression::SortKey& key : keys) {
    const std::string& name = key.tree.root.op == expression::Op::column ? key.tree.root.text : key.tree.text;
    const auto found = std::find_if(names.begin(), names.end(), [&](const std::string& each) {
      return each == name || each == snake_case(name);
    });
    if (found == names.end())
      return usage_error(fmt::format("--sort: the table {} has no column {}.{}", in_quotes(table.title),
                                     in_quotes(key.tree.text), did_you_mean(key.tree.text, names)));
    by.emplace_back(static_cast<std::size_t>(found - names.begin()), key.descending);
  }
  return by;
}

/// On a terminal, what rows are chosen and sorted by is shown even if there is no room for all columns.
void show_columns_of(const MainRows& rows, result::Table& table) {
  std::set<std::string> used;
  if (rows.having) used = expression::columns_of(*rows.having);
  for (const expression::SortKey& key : rows.sort) used.insert(key.tree.text);
  for (result::TableColumn& column : table.columns)
    if (used.contains(column.name)) column.is_asked = true;
}

}  // namespace

const OptionDeclarations<MainRows>& main_rows_options() {
  static const OptionDeclarations<MainRows> kOptions = {
      condition_option<MainRows>(
          {"having", "CONDITION", "", "only rows of the main table that meet a condition on its columns"},
          &MainRows::having),
      sort_option<MainRows>({"sort", "COLUMN [desc],...", "", "the order of the rows of the main table"},
                            &MainRows::sort),
      whole_option<MainRows>({"limit", "N", "", "the number of rows in the main table"}, &MainRows::limit, 1,
                             1'000'000'000),
      whole_option<MainRows>({"offset", "N", "0", "rows of the main table to skip"}, &MainRows::offset, 0,
                             1'000'000'000)};
  return kOptions;
}

OrError<void> choose_main_rows(const MainRows& rows, result::Result& result) {
  if ((!rows.having && rows.sort.empty() && !rows.limit && rows.offset == 0) || result.tables.empty())
    return {};
  result::Table& table = result.tables.front();
  const auto body = static_cast<std::uint32_t>(table.rows() - (table.ends_in_total() ? 1 : 0));
  std::vector<std::uint32_t> chosen(table.rows());
  std::iota(chosen.begin(), chosen.end(), 0U);
  if (rows.having) {
    PEAR_ASSIGN(chosen, rows_having(*rows.having, table));
  }
  show_columns_of(rows, table);
  std::erase_if(chosen, [&](std::uint32_t row) { return row >= body; });
  if (!rows.sort.empty()) {
    PEAR_ASSIGN(const auto by, sort_columns(rows.sort, table));
    std::vector<std::uint32_t> place(table.rows());
    const std::vector<std::uint32_t> order = result::row_order(table, by);
    for (std::uint32_t i = 0; i < order.size(); ++i) place[order[i]] = i;
    const auto is_finding = [&](std::uint32_t row) { return table.faint.empty() || table.faint[row] == 0; };
    std::sort(chosen.begin(), chosen.end(), [&](std::uint32_t a, std::uint32_t b) {
      return std::pair(!is_finding(a), place[a]) < std::pair(!is_finding(b), place[b]);
    });
  }
  const std::size_t met = chosen.size();
  if (rows.having)
    result.notes.push_back(fmt::format("--having: {} of {} meet it: {}.",
                                       with_thousands(static_cast<std::int64_t>(met)), counted(body, "row"),
                                       rows.having->text));
  const std::size_t begin = std::min(met, static_cast<std::size_t>(rows.offset));
  const std::size_t end = rows.limit ? std::min(met, begin + static_cast<std::size_t>(*rows.limit)) : met;
  if (begin > 0 || end < met)
    result.notes.push_back(begin == end ? fmt::format("There is no row after --offset {}: the table has {}.",
                                                      rows.offset, counted(met, "row"))
                                        : fmt::format("Rows {} to {} of {}.", begin + 1, end,
                                                      with_thousands(static_cast<std::int64_t>(met))));
  chosen = {chosen.begin() + static_cast<std::ptrdiff_t>(begin),
            chosen.begin() + static_cast<std::ptrdiff_t>(end)};
  if (body < table.rows()) chosen.push_back(body);
  table = result::picked_rows(std::move(table), chosen);
  return {};
}

}  // namespace pear::analysis
