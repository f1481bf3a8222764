#include "intake/join/nest_lines.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/text.hpp"
#include "expression/expression.hpp"
#include "intake/clean/recode.hpp"
#include "intake/plan/role.hpp"

namespace pear::intake {
namespace {

template <class T>
void gather(std::vector<T>& values, const std::vector<std::uint32_t>& rows, T empty) {
  std::vector<T> gathered(rows.size());
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, rows.size(), 1U << 16U), [&](const auto& range) {
    for (std::size_t i = range.begin(); i != range.end(); ++i)
      gathered[i] = rows[i] == daybook::kNoMember ? empty : values[rows[i]];
  });
  values = std::move(gathered);
}

/// One value a line, instead of one a row of the column's own table.
daybook::ColumnValues by_line(daybook::ColumnValues values, const std::vector<std::uint32_t>* rows) {
  if (rows == nullptr) return values;
  if (auto* text = std::get_if<daybook::TextValues>(&values)) gather(text->codes, *rows, daybook::kEmptyCode);
  if (auto* decimal = std::get_if<daybook::DecimalValues>(&values))
    gather(decimal->units, *rows, daybook::kEmptyUnits);
  if (auto* date = std::get_if<daybook::DateValues>(&values)) gather(date->days, *rows, daybook::kEmptyDays);
  if (auto* time = std::get_if<daybook::TimeValues>(&values)) gather(time->seconds, *rows, Moment::kNoTime);
  if (auto* flag = std::get_if<daybook::FlagValues>(&values)) gather(flag->flags, *rows, std::uint8_t{0});
  return values;
}

class Maker {
 public:
  Maker(const IntakePlan& plan, JoinedLines& lines) : plan_(plan), lines_(lines) {}

  OrError<PreparedLines> make() {
    PEAR_TRY(mark_returns());
    PEAR_TRY(mark_fees());
    count_currencies();
    PEAR_TRY(check_levels());
    PEAR_TRY(read_exported_times());
    for (const JoinedColumn& column : lines_.columns()) add(column);
    return std::move(made_);
  }

 private:
  /// A negative quantity or amount, or the condition of the intake file. Returns by this condition whose
  /// quantity and amount are positive, such as credit notes, get the sign of returns.
  OrError<void> mark_returns() {
    RawTable& lines = lines_.lines();
    const auto units_of = [&](std::string_view role) -> std::vector<std::int64_t>& {
      return std::get<daybook::DecimalValues>(lines.find(role)->values).units;
    };
    std::vector<std::int64_t>& quantities = units_of(daybook::role::kQuantity);
    std::vector<std::int64_t>& amounts = units_of(daybook::role::kAmount);
    std::vector<std::uint8_t>& flags = made_.table.is_return;
    if (plan_.return_condition.empty()) {
      flags.resize(lines.rows());
    } else {
      PEAR_ASSIGN(flags, rows_where("returns", plan_.return_condition));
    }
    add_exported(daybook::role::kIsReturn, flags);
    for (std::size_t line = 0; line < flags.size(); ++line) {
      const bool is_negative = quantities[line] < 0 || amounts[line] < 0;  // kEmptyUnits is, too
      if (plan_.turn_returns && flags[line] != 0 && !is_negative &&
          (quantities[line] > 0 || amounts[line] > 0)) {
        quantities[line] = -quantities[line];
        amounts[line] = -amounts[line];
        ++made_.turned;
        made_.turned_amount.add(Decimal::from_units(amounts[line]));
      }
      flags[line] |= is_negative;
    }
    return {};
  }

  OrError<void> mark_fees() {
    if (plan_.fee_condition.empty() && lines_.lines().find(daybook::role::kIsFee) == nullptr) return {};
    std::vector<std::uint8_t> flags(lines_.lines().rows());
    if (!plan_.fee_condition.empty()) {
      PEAR_ASSIGN(flags, rows_where("fees", plan_.fee_condition));
    }
    add_exported(daybook::role::kIsFee, flags);
    const auto& amounts =
        std::get<daybook::DecimalValues>(lines_.lines().find(daybook::role::kAmount)->values).units;
    for (std::size_t line = 0; line < flags.size(); ++line) {
      if (flags[line] == 0) continue;
      ++made_.fees;
      made_.fee_amount.add(Decimal::from_units(amounts[line]));
    }
    made_.table.columns.push_back(
        {{std::string(daybook::role::kIsFee), daybook::Level::line, daybook::FlagValues{std::move(flags)}},
         {}});
    return {};
  }

  /// Sets the flags of lines with "true" in a column that an export wrote.
  void add_exported(std::string_view name, std::vector<std::uint8_t>& flags) {
    const RawColumn* column = lines_.lines().find(name);
    if (column == nullptr) return;
    for (std::size_t line = 0; line < flags.size(); ++line)
      if (daybook::value_text(column->values, line) == "true") flags[line] = 1;
  }

  OrError<std::vector<std::uint8_t>> rows_where(const std::string& section, const std::string& text) {
    const expression::RowView view = lines_.view();
    auto condition = expression::Expression::compile_condition(text, view);
    if (!condition) return data_error(fmt::format("[{}] condition: {}", section, condition.error().message));
    return expression::rows_where(*condition, view);
  }

  /// Times of day that an export wrote, as 10:30 or 10:30:05.
  OrError<void> read_exported_times() {
    RawColumn* column = lines_.lines().find(daybook::role::kOrderTime);
    if (column == nullptr || !std::holds_alternative<daybook::TextValues>(column->values)) return {};
    daybook::TimeValues times;
    for (std::size_t line = 0; line < lines_.lines().rows(); ++line) {
      const std::string text = daybook::value_text(column->values, line);
      const auto moment = parse_iso_moment("2000-01-01 " + text);
      if (!text.empty() && !moment)
        return data_error(fmt::format("{}, line {}, column order_time: {} is not a time of day, as 10:30:05.",
                                      lines_.lines().sources[lines_.lines().source_of(line)].record.name,
                                      lines_.lines().lines[line], in_quotes(text)));
      times.seconds.push_back(text.empty() ? Moment::kNoTime : moment->second_of_day);
    }
    column->values = std::move(times);
    return {};
  }

  void count_currencies() {
    for (const JoinedColumn& column : lines_.columns()) {
      if (column.name != daybook::role::kCurrency) continue;
      const daybook::ColumnValues values = by_line(column.column->values, lines_.rows_of(column.table));
      const auto& texts = std::get<daybook::TextValues>(values);
      const auto rows = rows_by_code(texts);
      for (std::size_t code = 0; code < rows.size(); ++code) {
        if (rows[code] > 0) made_.currencies[std::string(texts.dictionary[code])] = rows[code];
      }
    }
  }

  OrError<void> check_levels() {
    std::vector<std::string> names;
    for (const JoinedColumn& column : lines_.columns()) names.push_back(column.name);
    for (const auto& [name, level] : plan_.levels) {
      if (std::find(names.begin(), names.end(), name) == names.end())
        return data_error(fmt::format("[levels] names {}, but there is no such column.{}", in_quotes(name),
                                      did_you_mean(name, names)));
    }
    return {};
  }

  void add(const JoinedColumn& column) {
    for (const std::string_view used :
         {daybook::role::kCurrency, daybook::role::kIsReturn, daybook::role::kIsFee})
      if (column.name == used) return;
    daybook::ColumnValues values = by_line(std::move(column.column->values), lines_.rows_of(column.table));
    daybook::LineTable& table = made_.table;
    if (column.name == daybook::role::kCustomerId)
      return add_ids(std::move(values), table.customer, table.customer_ids);
    if (column.name == daybook::role::kOrderId)
      return add_ids(std::move(values), table.order, table.order_ids);
    if (column.name == daybook::role::kProductId)
      return add_ids(std::move(values), table.product, table.product_ids);
    if (column.name == daybook::role::kOrderDate) {
      table.days = std::move(std::get<daybook::DateValues>(values).days);
    } else if (column.name == daybook::role::kOrderTime) {
      table.seconds = std::move(std::get<daybook::TimeValues>(values).seconds);
    } else {
      if (auto* text = std::get_if<daybook::TextValues>(&values)) drop_unused_texts(*text);
      const auto forced = plan_.levels.find(column.name);
      const bool is_forced = forced != plan_.levels.end();
      if (is_forced || is_master(column)) made_.master.push_back(column.name);
      table.columns.push_back(
          {{column.name, daybook::Level::line, std::move(values)},
           is_forced ? std::vector<daybook::Level>{forced->second} : likely_levels(column),
           is_forced});
    }
  }

  static void add_ids(daybook::ColumnValues values, std::vector<std::uint32_t>& codes, TextArray& ids) {
    auto& text = std::get<daybook::TextValues>(values);
    drop_unused_texts(text);
    codes = std::move(text.codes);
    ids = std::move(text.dictionary);
  }

  std::vector<daybook::Level> likely_levels(const JoinedColumn& column) const {
    for (const std::string_view name :
         {daybook::role::kQuantity, daybook::role::kUnitPrice, daybook::role::kAmount}) {
      if (column.name == name) return {};
    }
    for (const std::string_view name : {daybook::role::kUnitCost, daybook::role::kListPrice}) {
      if (column.name == name) return {daybook::Level::product};
    }
    if (is_master(column))
      return {column.table == TableKind::products ? daybook::Level::product : daybook::Level::customer};
    return {daybook::Level::customer, daybook::Level::product, daybook::Level::order};
  }

  [[nodiscard]] bool is_master(const JoinedColumn& column) const {
    return (column.table == TableKind::products || column.table == TableKind::customers) &&
           by_usual_key(column.table);
  }

  /// If a table is joined by its own id, its columns are constant for it.
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

OrError<std::string> settle_currency(const IntakePlan& plan,
                                     const std::map<std::string, std::uint64_t>& currencies) {
  std::vector<std::string> counts;
  for (const auto& [name, rows] : currencies)
    counts.push_back(fmt::format("{} ({})", name, counted(rows, "line")));
  if (currencies.size() > 1)
    return data_error(
        fmt::format("the lines are in {} currencies: {}. A daybook has one; keep one of them with"
                    " [[require]] condition = \"currency = '{}'\".",
                    currencies.size(), join(counts, ", "), currencies.begin()->first));
  if (currencies.empty()) return plan.currency;
  if (!plan.currency.empty() && plan.currency != currencies.begin()->first)
    return data_error(fmt::format("the lines are in {}, and [shop] currency says {}.", counts.front(),
                                  in_quotes(plan.currency)));
  return currencies.begin()->first;
}

}  // namespace pear::intake
