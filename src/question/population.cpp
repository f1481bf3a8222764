#include "question/population.hpp"

#include <algorithm>

#include "daybook/purchases.hpp"
#include "question/fold.hpp"

namespace pear {
namespace {

struct Counts {
  Population population;
  DecimalSum amount;
};

void include(std::optional<Date>& first, std::optional<Date>& last, Date earliest, Date latest) {
  first = first ? std::min(*first, earliest) : earliest;
  last = last ? std::max(*last, latest) : latest;
}

}  // namespace

Population population_of(const Daybook& daybook) {
  const Purchases purchases(daybook);
  const bool with_amounts = daybook.find(role::kAmount) != nullptr;
  const auto amounts = with_amounts ? daybook.amounts() : std::span<const std::int64_t>();
  Counts counts = fold_customers(
      daybook, [] { return Counts{}; },
      [&](Counts& state, std::uint32_t customer) {
        Population& population = state.population;
        const Run orders = daybook.orders_of(customer);
        ++population.customers;
        for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
          const Run lines = daybook.lines_of(order);
          std::uint32_t returns = 0;
          for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
            returns += purchases.is_return(line) ? 1U : 0U;
            if (with_amounts) state.amount.add(Decimal::from_units(amounts[line]));
          }
          population.lines += lines.size();
          population.returns += returns;
          population.orders += returns < lines.size() ? 1U : 0U;
        }
        include(population.first_date, population.last_date, daybook.date_of_order(orders.begin),
                daybook.date_of_order(orders.end - 1));
      },
      [](Counts& earlier, const Counts& later) {
        earlier.population.customers += later.population.customers;
        earlier.population.orders += later.population.orders;
        earlier.population.lines += later.population.lines;
        earlier.population.returns += later.population.returns;
        earlier.amount.add(later.amount);
        if (later.population.first_date)
          include(earlier.population.first_date, earlier.population.last_date, *later.population.first_date,
                  *later.population.last_date);
      });
  if (with_amounts) counts.population.amount = counts.amount.total();
  return counts.population;
}

}  // namespace pear
