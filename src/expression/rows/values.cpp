#include "expression/rows/values.hpp"

#include "base/date.hpp"
#include "base/decimal.hpp"

namespace pear::expression {

std::string value_text(const Values& values, std::size_t row) {
  if (values.states[row] != ValueState::filled) return "";
  switch (values.type) {
    case ValueType::null:
      return "";
    case ValueType::text:
      return std::string(values.texts[row]);
    case ValueType::number:
      return Decimal::from_units(values.numbers[row]).to_text();
    case ValueType::date:
      return to_text(Date{static_cast<std::int32_t>(values.numbers[row])});
    case ValueType::time:
      return time_of_day_text(static_cast<std::int32_t>(values.numbers[row]));
    case ValueType::truth:
      return values.numbers[row] != 0 ? "true" : "false";
  }
  return "";
}

}  // namespace pear::expression
