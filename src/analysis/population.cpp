#include "analysis/population.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "analysis/parallel_fold.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"

namespace pear::analysis {
namespace {

struct Counts {
  result::Population population;
  DecimalSum amount, fees;
};

void include(std::optional<Date>& first, std::optional<Date>& last, Date earliest, Date latest) {
  first = first ? std::min(*first, earliest) : earliest;
  last = last ? std::max(*last, latest) : latest;
}

}  // namespace

result::Population population_of(const daybook::Daybook& daybook) {
  const daybook::Purchases purchases(daybook);
  const auto is_return = daybook.return_flags();
  const auto days = daybook.order_days();
  const bool with_amounts = daybook.find(daybook::role::kAmount) != nullptr;
  const auto amounts = with_amounts ? daybook.amounts() : std::span<const std::int64_t>();
  Counts counts = fold_customers(
      daybook, [] { return Counts{}; },
      [&](Counts& state, std::uint32_t customer) {
        result::Population& population = state.population;
        const daybook::Run orders = daybook.orders_of(customer);
        ++population.customers;
        const std::uint32_t first_line = daybook.lines_of(orders.begin).begin;
        const std::uint32_t last_line = daybook.lines_of(orders.end - 1).end;
        std::uint32_t returns = 0;
        for (std::uint32_t line = first_line; line < last_line; ++line) returns += is_return[line];
        for (std::uint32_t line = first_line; line < last_line; ++line)
          population.fee_lines += purchases.is_fee(line) && !purchases.is_return(line) ? 1U : 0U;
        population.lines += last_line - first_line;
        population.returns += returns;
        population.orders += orders.size();
        for (std::uint32_t order = orders.begin; returns > 0 && order < orders.end; ++order)
          population.orders -= purchases.is_order(order) ? 0U : 1U;
        for (std::uint32_t line = first_line; with_amounts && line < last_line; ++line) {
          state.amount.add(Decimal::from_units(amounts[line]));
          if (purchases.is_fee(line)) state.fees.add(Decimal::from_units(amounts[line]));
        }
        include(population.first_date, population.last_date, Date{days[orders.begin]},
                Date{days[orders.end - 1]});
      },
      [](Counts& earlier, const Counts& later) {
        earlier.population.customers += later.population.customers;
        earlier.population.orders += later.population.orders;
        earlier.population.lines += later.population.lines;
        earlier.population.returns += later.population.returns;
        earlier.population.fee_lines += later.population.fee_lines;
        earlier.amount.add(later.amount);
        earlier.fees.add(later.fees);
        if (later.population.first_date)
          include(earlier.population.first_date, earlier.population.last_date, *later.population.first_date,
                  *later.population.last_date);
      });
  if (with_amounts) counts.population.amount = counts.amount.total();
  if (with_amounts && daybook.find(daybook::role::kIsFee) != nullptr)
    counts.population.fees = counts.fees.total();
  return counts.population;
}

std::string sample_note(const result::Population& population) {
  // Half the width of the widest 95% interval of a share: that of one half (Wald).
  const double points = 98 / std::sqrt(static_cast<double>(population.customers));
  return fmt::format(
      "The daybook is a sample: counts and amounts are about 1 in {} of the shop's. Shares of its {} "
      "have a margin of error of at most {:.1f} points (95%).",
      with_thousands(std::int64_t{population.one_in}), counted(population.customers, "customer"),
      std::min(100.0, points));
}

}  // namespace pear::analysis
