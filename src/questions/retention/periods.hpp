// The periods since a customer's first order.
#pragma once

#include <cstdint>
#include <string>

#include "base/date.hpp"

namespace pear::retention {

enum class PeriodKind : std::uint8_t { week, month, quarter, days };

/// Periods are counted from 0, which contains the first order. They begin on the day of the first order, or
/// with the calendar's week (on Monday), month or quarter.
struct Period {
  PeriodKind kind = PeriodKind::month;
  std::int32_t days = 0;  ///< of PeriodKind::days
  bool by_calendar = false;

  /// The period of a day, from the first order's on.
  [[nodiscard]] std::int32_t of(Date first, Date day) const;
  /// The number of periods that are over at the end of a day.
  [[nodiscard]] std::int32_t complete(Date first, Date last) const { return of(first, {last.days + 1}); }

  [[nodiscard]] std::string noun() const;  ///< "month", "period of 30 days"
  [[nodiscard]] std::string name() const;  ///< for columns: "month", "period"
};

}  // namespace pear::retention
