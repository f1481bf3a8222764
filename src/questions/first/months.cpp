#include "questions/first/months.hpp"

#include <algorithm>

namespace pear::first {

std::vector<MonthFacts> months_of(const daybook::Daybook& daybook, const std::vector<FirstOrders>& beginnings,
                                  const analysis::CustomerGroups& groups) {
  const auto month_of_customer = [&](std::uint32_t customer) {
    return month_of(daybook.date_of_order(beginnings[customer].first));
  };
  Month first{INT32_MAX}, last{INT32_MIN};
  for (std::uint32_t customer = 0; customer < beginnings.size(); ++customer) {
    if (!beginnings[customer].is_new) continue;
    first = std::min(first, month_of_customer(customer));
    last = std::max(last, month_of_customer(customer));
  }
  if (first > last) return {};
  const auto size = static_cast<std::uint32_t>(last.index - first.index + 1);
  std::vector<MonthFacts> months;
  for (std::uint32_t group = 0; group < groups.count; ++group)
    for (std::int32_t index = first.index; index <= last.index; ++index)
      months.push_back({group, Month{index}, 0, 0, {}});
  for (std::uint32_t customer = 0; customer < beginnings.size(); ++customer) {
    if (!beginnings[customer].is_new) continue;
    const auto month = static_cast<std::uint32_t>(month_of_customer(customer).index - first.index);
    MonthFacts& facts = months[groups.group_of(customer) * size + month];
    ++facts.new_customers;
    facts.first_amount.add(Decimal::from_units(beginnings[customer].first_amount));
  }
  std::int64_t running = 0;
  for (MonthFacts& facts : months)
    facts.cumulative_customers = running = facts.new_customers + (facts.month == first ? 0 : running);
  return months;
}

}  // namespace pear::first
