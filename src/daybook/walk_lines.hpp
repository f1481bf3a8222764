// Visits lines together with the order and customer they belong to.
#pragma once

#include <cstdint>
#include <functional>
#include <vector>

#include "daybook/daybook.hpp"

namespace pear::daybook {

/// A line, with its order and customer.
struct LinePlace {
  std::uint32_t line = 0, order = 0, customer = 0;
  std::uint32_t product = 0;  ///< 0 if the products of lines were not loaded

  [[nodiscard]] std::uint32_t member(Level level) const {
    switch (level) {
      case Level::order:
        return order;
      case Level::customer:
        return customer;
      case Level::product:
        return product;
      case Level::line:
        break;
    }
    return line;
  }
};

/// Customers [begin, end).
struct CustomerRun {
  std::uint32_t begin = 0, end = 0;
};

/// visit(place) for each line of the run, in order.
template <class Visit>
void walk_lines(const Daybook& daybook, CustomerRun run, const Visit& visit) {
  const auto& products = daybook.parts().line_products;
  LinePlace place;
  for (place.customer = run.begin; place.customer < run.end; ++place.customer) {
    const Run orders = daybook.orders_of(place.customer);
    for (place.order = orders.begin; place.order < orders.end; ++place.order) {
      const Run lines = daybook.lines_of(place.order);
      for (place.line = lines.begin; place.line < lines.end; ++place.line) {
        if (!products.empty()) place.product = products[place.line];
        visit(place);
      }
    }
  }
}

/// 1 for each member with a line; a selection has products without any. If the products
/// of lines were not loaded, all count.
[[nodiscard]] std::vector<std::uint8_t> members_with_lines(const Daybook& daybook, Level level);

/// work(run) for runs of whole customers, on all threads, in any order.
void for_each_customer_run(const Daybook& daybook, const std::function<void(CustomerRun run)>& work);

}  // namespace pear::daybook
