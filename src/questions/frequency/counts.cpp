#include "questions/frequency/counts.hpp"

#include <algorithm>
#include <numeric>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::frequency {

OrderFacts Counts::all_groups() const {
  OrderFacts all;
  for (const OrderFacts& facts : orders.groups) {
    all.customers += facts.customers;
    all.ordered_again += facts.ordered_again;
    all.orders += facts.orders;
    add_all(all.days_between, facts.days_between);
    add_all(all.typical_days, facts.typical_days);
  }
  return all;
}

std::uint64_t Counts::customers(std::uint32_t group) const {
  const auto& places = distribution.customers[group];
  return std::accumulate(places.begin(), places.end(), std::uint64_t{0});
}

std::uint64_t Counts::customers() const {
  std::uint64_t all = 0;
  for (std::uint32_t group = 0; group < groups.count; ++group) all += customers(group);
  return all;
}

std::string Counts::in_window() const {
  return options.within
             ? fmt::format(" in their first {}", counted(static_cast<std::uint64_t>(*options.within), "day"))
             : "";
}

std::string Counts::noun() const {
  std::string noun = values.name;
  std::replace(noun.begin(), noun.end(), '_', ' ');
  return noun;
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  Counts counts{options, input.daybook, {}, {}, {}, {}, {}, false};
  counts.is_sample = input.population.one_in > 0;
  PEAR_ASSIGN(counts.groups, analysis::group_customers(options.by, lines));
  counts.orders = count_orders(input, options, counts.groups);
  PEAR_ASSIGN(counts.values, customer_values(input, options, counts.orders, lines));
  PEAR_ASSIGN(counts.distribution, distribute(counts.values, options, counts.groups));
  if (options.list && !options.within) counts.quiet = find_quiet_customers(input, options.horizon);
  return counts;
}

}  // namespace pear::frequency
