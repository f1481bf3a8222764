#include "intake/to_line_table.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/text.hpp"
#include "expression/expression.hpp"
#include "intake/recode.hpp"
#include "intake/role.hpp"

namespace pear {
namespace {

template <class T>
void gather(std::vector<T>& values, const std::vector<std::uint32_t>& rows, T empty) {
  std::vector<T> gathered(rows.size());
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, rows.size(), 1U << 16U), [&](const auto& range) {
    for (std::size_t i = range.begin(); i != range.end(); ++i)
      gathered[i] = rows[i] == kNoMember ? empty : values[rows[i]];
  });
  values = std::move(gathered);
}

/// One value a line, instead of one a row of the column's own table.
ColumnValues by_line(ColumnValues values, const std::vector<std::uint32_t>* rows) {
  if (rows == nullptr) return values;
  if (auto* text = std::get_if<TextValues>(&values)) gather(text->codes, *rows, kEmptyCode);
  if (auto* decimal = std::get_if<DecimalValues>(&values)) gather(decimal->units, *rows, kEmptyUnits);
  if (auto* date = std::get_if<DateValues>(&values)) gather(date->days, *rows, kEmptyDays);
  if (auto* time = std::get_if<TimeValues>(&values)) gather(time->seconds, *rows, Moment::kNoTime);
  if (auto* flag = std::get_if<FlagValues>(&values)) gather(flag->flags, *rows, std::uint8_t{0});
  return values;
}

class Maker {
 public:
  Maker(const IntakePlan& plan, JoinedLines& lines) : plan_(plan), lines_(lines) {}

  OrError<PreparedLines> make() {
    PEAR_TRY(mark_returns());
    PEAR_TRY(find_currency());
    PEAR_TRY(check_levels());
    for (const JoinedColumn& column : lines_.columns()) add(column);
    return std::move(made_);
  }

 private:
  /// A negative quantity or amount, or what the intake file says.
  OrError<void> mark_returns() {
    const RawTable& lines = lines_.lines();
    const auto& quantities = std::get<DecimalValues>(lines.find(role::kQuantity)->values).units;
    const auto& amounts = std::get<DecimalValues>(lines.find(role::kAmount)->values).units;
    std::vector<std::uint8_t>& flags = made_.table.is_return;
    if (plan_.return_condition.empty()) {
      flags.resize(lines.rows());
    } else {
      const RowView view = lines_.view();
      auto condition = Expression::compile_condition(plan_.return_condition, view);
      if (!condition) return data_error("[returns] condition: " + condition.error().message);
      PEAR_ASSIGN(flags, rows_where(*condition, view));
    }
    for (std::size_t line = 0; line < flags.size(); ++line)
      flags[line] |= quantities[line] < 0 || amounts[line] < 0;
    return {};
  }

  OrError<void> find_currency() {
    made_.currency = plan_.currency;
    for (const JoinedColumn& column : lines_.columns()) {
      if (column.name != role::kCurrency) continue;
      const ColumnValues values = by_line(column.column->values, lines_.rows_of(column.table));
      const auto& texts = std::get<TextValues>(values);
      const auto rows = rows_by_code(texts);
      std::map<std::string, std::uint64_t> currencies;
      for (std::size_t code = 0; code < rows.size(); ++code) {
        if (rows[code] > 0) currencies[std::string(texts.dictionary[code])] = rows[code];
      }
      PEAR_TRY(settle_currency(currencies));
    }
    return {};
  }

  OrError<void> settle_currency(const std::map<std::string, std::uint64_t>& currencies) {
    std::vector<std::string> counts;
    for (const auto& [name, rows] : currencies)
      counts.push_back(fmt::format("{} ({})", name, counted(rows, "line")));
    if (currencies.size() > 1)
      return data_error(
          fmt::format("the lines are in {} currencies: {}. A daybook has one; keep one of them with"
                      " [[require]] condition = \"currency = '{}'\".",
                      currencies.size(), join(counts, ", "), currencies.begin()->first));
    if (currencies.empty()) return {};
    if (!plan_.currency.empty() && plan_.currency != currencies.begin()->first)
      return data_error(fmt::format("the lines are in {}, and [shop] currency says {}.", counts.front(),
                                    in_quotes(plan_.currency)));
    made_.currency = currencies.begin()->first;
    return {};
  }

  OrError<void> check_levels() {
    std::vector<std::string> names;
    for (const JoinedColumn& column : lines_.columns()) names.push_back(column.name);
    for (const auto& [name, level] : plan_.levels) {
      if (std::find(names.begin(), names.end(), name) == names.end())
        return data_error(fmt::format("[levels] names {}, and there is no such column.{}", in_quotes(name),
                                      did_you_mean(name, names)));
    }
    return {};
  }

  void add(const JoinedColumn& column) {
    if (column.name == role::kCurrency) return;
    ColumnValues values = by_line(std::move(column.column->values), lines_.rows_of(column.table));
    LineTable& table = made_.table;
    if (column.name == role::kCustomerId)
      return add_ids(std::move(values), table.customer, table.customer_ids);
    if (column.name == role::kOrderId) return add_ids(std::move(values), table.order, table.order_ids);
    if (column.name == role::kProductId) return add_ids(std::move(values), table.product, table.product_ids);
    if (column.name == role::kOrderDate) {
      table.days = std::move(std::get<DateValues>(values).days);
    } else if (column.name == role::kOrderTime) {
      table.seconds = std::move(std::get<TimeValues>(values).seconds);
    } else {
      if (auto* text = std::get_if<TextValues>(&values)) drop_unused_texts(*text);
      const auto forced = plan_.levels.find(column.name);
      const bool is_forced = forced != plan_.levels.end();
      table.columns.push_back({{column.name, Level::line, std::move(values)},
                               is_forced ? std::vector<Level>{forced->second} : likely_levels(column),
                               is_forced});
    }
  }

  static void add_ids(ColumnValues values, std::vector<std::uint32_t>& codes, TextArray& ids) {
    auto& text = std::get<TextValues>(values);
    drop_unused_texts(text);
    codes = std::move(text.codes);
    ids = std::move(text.dictionary);
  }

  std::vector<Level> likely_levels(const JoinedColumn& column) const {
    for (const std::string_view name : {role::kQuantity, role::kUnitPrice, role::kAmount}) {
      if (column.name == name) return {};
    }
    for (const std::string_view name : {role::kUnitCost, role::kListPrice}) {
      if (column.name == name) return {Level::product};
    }
    if (column.table == TableKind::products && by_usual_key(TableKind::products)) return {Level::product};
    if (column.table == TableKind::customers && by_usual_key(TableKind::customers)) return {Level::customer};
    return {Level::customer, Level::product, Level::order};
  }

  /// Joined by its own id, a table's columns are surely constant for it.
  bool by_usual_key(TableKind kind) const {
    return std::none_of(plan_.joins.begin(), plan_.joins.end(),
                        [&](const auto& join) { return join.first.second == kind; });
  }

  const IntakePlan& plan_;
  JoinedLines& lines_;
  PreparedLines made_;
};

}  // namespace

OrError<PreparedLines> to_line_table(const IntakePlan& plan, JoinedLines lines) {
  return Maker(plan, lines).make();
}

}  // namespace pear
