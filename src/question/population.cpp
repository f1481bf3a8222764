#include "question/population.hpp"

#include <algorithm>

#include "question/fold.hpp"
#include "question/purchases.hpp"

namespace pear {
namespace {

void include(std::optional<Date>& first, std::optional<Date>& last, Date earliest, Date latest) {
  first = first ? std::min(*first, earliest) : earliest;
  last = last ? std::max(*last, latest) : latest;
}

}  // namespace

Population population_of(const Daybook& daybook) {
  const Purchases purchases(daybook);
  return fold_customers(
      daybook, [] { return Population{}; },
      [&](Population& population, std::uint32_t customer) {
        const Run orders = daybook.orders_of(customer);
        ++population.customers;
        for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
          const Run lines = daybook.lines_of(order);
          std::uint32_t returns = 0;
          for (std::uint32_t line = lines.begin; line < lines.end; ++line)
            returns += purchases.is_return(line) ? 1U : 0U;
          population.lines += lines.size();
          population.returns += returns;
          population.orders += returns < lines.size() ? 1U : 0U;
        }
        include(population.first_date, population.last_date, daybook.date_of_order(orders.begin),
                daybook.date_of_order(orders.end - 1));
      },
      [](Population& earlier, const Population& later) {
        earlier.customers += later.customers;
        earlier.orders += later.orders;
        earlier.lines += later.lines;
        earlier.returns += later.returns;
        if (later.first_date)
          include(earlier.first_date, earlier.last_date, *later.first_date, *later.last_date);
      });
}

}  // namespace pear
