#include "base/whole_months.hpp"

#include <date/date.h>

namespace pear {
namespace {

::date::day day_of_month(Date day) {
  return ::date::year_month_day{::date::sys_days{::date::days{day.days}}}.day();
}

}  // namespace

std::int32_t whole_months_between(Date from, Date to) {
  const std::int32_t months = month_of(to).index - month_of(from).index;
  return months - (day_of_month(to) < day_of_month(from) ? 1 : 0);
}

Date months_before(Date day, std::int32_t months) {
  const ::date::year_month_day ymd{::date::sys_days{::date::days{day.days}}};
  const auto month = ymd.year() / ymd.month() - ::date::months{months};
  const ::date::day last = (month / ::date::last).day();
  const bool is_last = ymd == ymd.year() / ymd.month() / ::date::last;
  const ::date::sys_days there = month / (is_last || last < ymd.day() ? last : ymd.day());
  return {static_cast<std::int32_t>(there.time_since_epoch().count())};
}

}  // namespace pear
