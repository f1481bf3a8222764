#include "intake/clean/computed_columns.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/dictionary.hpp"
#include "base/text.hpp"
#include "expression/expression.hpp"
#include "intake/clean/leave_out_rows.hpp"
#include "intake/plan/role.hpp"

namespace pear::intake {
namespace {

using expression::ValueState;
using expression::ValueType;

/// One column, evaluated.
struct Evaluated {
  daybook::ColumnValues values;
  std::vector<std::uint8_t> states;  // by row: a ValueState
};

class ColumnComputer {
 public:
  ColumnComputer(const ComputedColumn& column, RawTable& table, IntakeLog& log)
      : column_(column), table_(table), log_(log), role_(find_role(column.name, table.kind)) {}

  OrError<void> run() {
    const expression::RowView view = table_.view();
    auto compiled = expression::Expression::compile(column_.expression, view);
    if (!compiled) return fault(compiled.error().message);
    PEAR_TRY(check_type(compiled->type()));
    const std::string shown = shown_column(*compiled, view);
    Evaluated evaluated = evaluate(*compiled, view);
    store(std::move(evaluated.values));
    reject(evaluated.states, shown);
    return {};
  }

 private:
  [[nodiscard]] tl::unexpected<Error> fault(const std::string& what) const {
    return data_error(fmt::format("[{}.compute] {}: {}", to_text(table_.kind), column_.name, what));
  }

  OrError<void> check_type(ValueType type) const {
    if (type == ValueType::truth || type == ValueType::time)
      return fault(
          "a column contains texts, numbers or dates; write CASE WHEN ... THEN 'yes' ELSE 'no' END for a "
          "condition.");
    if (role_ == nullptr || role_->kind == ColumnKind::text) return {};
    const ValueType needed = role_->kind == ColumnKind::number ? ValueType::number : ValueType::date;
    if (type == needed || type == ValueType::null) return {};
    return fault(fmt::format("it must be {}, but {} is {}; CAST(... AS {}) makes one of a text.",
                             needed == ValueType::number ? "a number" : "a date",
                             in_quotes(column_.expression),
                             type == ValueType::text   ? "text"
                             : type == ValueType::date ? "a date"
                                                       : "a number",
                             needed == ValueType::number ? "NUMERIC" : "DATE"));
  }

  /// The column that explains why a value cannot be computed: the first text, otherwise the first.
  std::string shown_column(const expression::Expression& compiled, const expression::RowView& view) const {
    for (const std::size_t each : compiled.columns()) {
      if (std::holds_alternative<daybook::TextValues>(*view.columns[each].values))
        return view.columns[each].name;
    }
    return compiled.columns().empty() ? "" : view.columns[*compiled.columns().begin()].name;
  }

  /// The type that the column gets: that of the role, otherwise that of the values.
  [[nodiscard]] ValueType column_type(ValueType type) const {
    if (role_ == nullptr) return type == ValueType::null ? ValueType::text : type;
    return role_->kind == ColumnKind::text     ? ValueType::text
           : role_->kind == ColumnKind::number ? ValueType::number
                                               : ValueType::date;
  }

  Evaluated evaluate(const expression::Expression& compiled, const expression::RowView& view) const {
    const ValueType type = column_type(compiled.type());
    const bool is_text = type == ValueType::text;
    Evaluated result;
    daybook::TextValues texts;
    daybook::DecimalValues numbers;
    daybook::DateValues dates;
    Dictionary dictionary;
    for (std::size_t begin = 0; begin < view.rows; begin += expression::Expression::kBlock) {
      const std::size_t end = std::min(view.rows, begin + expression::Expression::kBlock);
      const expression::Values values = compiled.evaluate(view, begin, end);
      for (std::size_t i = 0; i < values.size(); ++i) {
        const bool filled = values.states[i] == ValueState::filled;
        const std::string text = is_text && filled ? expression::value_text(values, i) : std::string();
        const bool is_empty = !filled || (is_text && text.empty());
        result.states.push_back(static_cast<std::uint8_t>(
            values.states[i] == ValueState::filled && is_empty ? ValueState::empty : values.states[i]));
        if (is_text)
          texts.codes.push_back(is_empty ? daybook::kEmptyCode : dictionary.code_of(HashedText(text)));
        else if (type == ValueType::date)
          dates.days.push_back(is_empty ? daybook::kEmptyDays : static_cast<std::int32_t>(values.numbers[i]));
        else
          numbers.units.push_back(is_empty ? daybook::kEmptyUnits : values.numbers[i]);
      }
    }
    texts.dictionary = dictionary.take();
    if (is_text)
      result.values = std::move(texts);
    else if (type == ValueType::date)
      result.values = std::move(dates);
    else
      result.values = std::move(numbers);
    return result;
  }

  void store(daybook::ColumnValues values) {
    if (column_.name == daybook::role::kOrderDate)  // the time of day belonged to the old date
      std::erase_if(table_.columns,
                    [](const RawColumn& column) { return column.name == daybook::role::kOrderTime; });
    if (RawColumn* known = table_.find(column_.name))
      known->values = std::move(values);
    else
      table_.columns.push_back({column_.name, column_.name, std::move(values)});
  }

  void reject(const std::vector<std::uint8_t>& states, const std::string& shown) {
    std::vector<std::uint8_t> stays(states.size(), 1);
    std::uint64_t rejected = 0, impossible = 0;
    for (std::size_t row = 0; row < states.size(); ++row) {
      const auto state = static_cast<ValueState>(states[row]);
      const bool is_fault = state == ValueState::fault;
      impossible += is_fault ? 1 : 0;
      const bool is_missing = role_ != nullptr && (is_fault || (role_->needed && state == ValueState::empty));
      if (!is_missing) continue;
      stays[row] = 0;
      ++rejected;
    }
    if (rejected > 0)
      reject_rows(table_, stays, shown,
                  fmt::format("gives no {}, which is computed as {}", column_.name, column_.expression),
                  log_);
    else if (impossible > 0)
      table_.sources.back().uncomputed.push_back({column_.name, column_.expression, impossible});
  }

  const ComputedColumn& column_;
  RawTable& table_;
  IntakeLog& log_;
  const RoleInfo* role_;
};

/// Empty amounts become quantity times price; nothing where that is too large.
void fill_amounts(RawTable& table) {
  const auto units_of = [&](std::string_view role) -> std::vector<std::int64_t>* {
    RawColumn* column = table.find(role);
    return column == nullptr ? nullptr : &std::get<daybook::DecimalValues>(column->values).units;
  };
  auto& amounts = *units_of(daybook::role::kAmount);
  const auto* quantities = units_of(daybook::role::kQuantity);
  const auto* prices = units_of(daybook::role::kUnitPrice);
  if (quantities == nullptr || prices == nullptr) return;
  for (std::size_t row = 0; row < amounts.size(); ++row) {
    if (amounts[row] != daybook::kEmptyUnits || (*quantities)[row] == daybook::kEmptyUnits ||
        (*prices)[row] == daybook::kEmptyUnits)
      continue;
    const auto product =
        checked_multiply(Decimal::from_units((*quantities)[row]), Decimal::from_units((*prices)[row]));
    if (product) amounts[row] = product->units();
  }
}

const std::vector<std::int64_t>& amounts_of(const RawTable& table) {
  return std::get<daybook::DecimalValues>(table.find(daybook::role::kAmount)->values).units;
}

/// The amounts that were read are not those of the daybook: they are counted again.
void count_amounts(RawTable& table) {
  const auto& amounts = amounts_of(table);
  for (SourceAccount& source : table.sources) {
    source.sums = {};
    source.sums.unreadable = source.record.rows_rejected;
  }
  for (std::size_t row = 0; row < amounts.size(); ++row) {
    if (amounts[row] == daybook::kEmptyUnits) continue;
    AmountSums& sums = table.sources[table.source_of(row)].sums;
    sums.read.add(Decimal::from_units(amounts[row]));
  }
}

}  // namespace

OrError<void> compute_columns(const std::vector<ComputedColumn>& computed, RawTable& table, IntakeLog& log) {
  if (computed.empty()) return {};
  for (const ComputedColumn& column : computed) PEAR_TRY(ColumnComputer(column, table, log).run());
  if (table.kind != TableKind::lines) return {};
  fill_amounts(table);
  std::vector<std::uint8_t> stays;
  for (const std::int64_t amount : amounts_of(table)) stays.push_back(amount == daybook::kEmptyUnits ? 0 : 1);
  count_amounts(table);
  reject_rows(table, stays, std::string(daybook::role::kQuantity), "times unit_price is too large", log);
  return {};
}

}  // namespace pear::intake
