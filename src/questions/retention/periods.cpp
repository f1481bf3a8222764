#include "questions/retention/periods.hpp"

#include <fmt/format.h>

#include "base/whole_months.hpp"

namespace pear::retention {
namespace {

constexpr std::int32_t kDaysOfWeek = 7;
constexpr std::int32_t kMonthsOfQuarter = 3;

/// Rounded down, below zero too.
std::int32_t quotient(std::int32_t number, std::int32_t by) {
  const std::int32_t whole = number / by;
  return number % by < 0 ? whole - 1 : whole;
}

/// Weeks from Monday on; 1970-01-01 was a Thursday.
std::int32_t week_of(Date day) { return quotient(day.days + 3, kDaysOfWeek); }

}  // namespace

std::int32_t Period::of(Date first, Date day) const {
  switch (kind) {
    case PeriodKind::days:
      return days_between(first, day) / days;
    case PeriodKind::week:
      return by_calendar ? week_of(day) - week_of(first) : days_between(first, day) / kDaysOfWeek;
    case PeriodKind::month:
      return by_calendar ? month_of(day).index - month_of(first).index : whole_months_between(first, day);
    case PeriodKind::quarter:
      return by_calendar ? month_of(day).index / kMonthsOfQuarter - month_of(first).index / kMonthsOfQuarter
                         : whole_months_between(first, day) / kMonthsOfQuarter;
  }
  return 0;
}

std::string Period::name() const {
  constexpr const char* kNames[] = {"week", "month", "quarter", "period"};
  return kNames[static_cast<std::size_t>(kind)];
}

std::string Period::noun() const {
  if (kind == PeriodKind::days) return fmt::format("period of {} days", days);
  return by_calendar ? "calendar " + name() : name();
}

}  // namespace pear::retention
