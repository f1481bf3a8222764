#include "storage/value_checks.hpp"

#include <limits>

#include "base/date.hpp"
#include "daybook/daybook.hpp"

namespace pear::storage {

Allowed<std::uint32_t> allowed_codes(std::size_t texts) {
  const auto highest = static_cast<std::uint32_t>(texts == 0 ? 0 : texts - 1);
  // without texts every code is empty: no code is both at least 1 and at most 0
  return {texts == 0 ? 1U : 0U, highest, true, daybook::kEmptyCode};
}

Allowed<std::int64_t> allowed_units(const std::string& column) {
  const bool required = column == daybook::role::kQuantity || column == daybook::role::kAmount;
  constexpr std::int64_t kHighest = std::numeric_limits<std::int64_t>::max();
  return {-kHighest, kHighest, !required, daybook::kEmptyUnits};
}

Allowed<std::int32_t> allowed_days(const std::string& column) {
  static const std::int32_t kFirst = date_of(0, 1, 1).days, kLast = date_of(9999, 12, 31).days;
  return {kFirst, kLast, column != daybook::role::kOrderDate, daybook::kEmptyDays};
}

Allowed<std::int32_t> allowed_seconds() {
  constexpr std::int32_t kSecondsOfDay = 86'400;
  return {0, kSecondsOfDay - 1, true, Moment::kNoTime};
}

Allowed<std::uint8_t> allowed_flags() { return {0, 1, false, 0}; }

}  // namespace pear::storage
