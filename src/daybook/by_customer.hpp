// A value for each customer.
#pragma once

#include <cstdint>
#include <vector>

#include "daybook/walk_lines.hpp"

namespace pear::daybook {

/// values[c] = of(c) for every customer, on all threads.
template <class T, class Of>
std::vector<T> by_customer(const Daybook& daybook, Of of) {
  std::vector<T> values(daybook.customers());
  for_each_customer_run(daybook, [&](CustomerRun run) {
    for (std::uint32_t customer = run.begin; customer != run.end; ++customer) values[customer] = of(customer);
  });
  return values;
}

/// The lines of a customer.
[[nodiscard]] inline Run lines_of_customer(const Daybook& daybook, std::uint32_t customer) {
  const Run orders = daybook.orders_of(customer);
  return {daybook.lines_of(orders.begin).begin, daybook.lines_of(orders.end - 1).end};
}

}  // namespace pear::daybook
