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

}  // namespace pear
