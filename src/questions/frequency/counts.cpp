#include "questions/frequency/counts.hpp"

#include <algorithm>
#include <numeric>
#include <tuple>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/purchases.hpp"

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

namespace {

void list_customers(Counts& counts) {
  const daybook::Purchases purchases(counts.daybook);
  const auto& place_of = counts.distribution.place_of;
  for (std::uint32_t customer = 0; customer < place_of.size(); ++customer) {
    if (place_of[customer] == daybook::kNoMember) continue;
    daybook::Run orders = counts.daybook.orders_of(customer);
    while (!purchases.is_order(orders.begin)) ++orders.begin;
    while (!purchases.is_order(orders.end - 1)) --orders.end;
    counts.listed.push_back({customer, counts.groups.group_of(customer), place_of[customer],
                             counts.orders.orders[customer], counts.values.values[customer],
                             counts.daybook.date_of_order(orders.begin),
                             counts.daybook.date_of_order(orders.end - 1)});
  }
}

}  // namespace

void sort_listed(Counts& counts) {
  const auto at_stake = [&](const ListedCustomer& row) {
    return counts.quiet ? counts.quiet->customers[row.customer].at_stake : 0;
  };
  std::stable_sort(
      counts.listed.begin(), counts.listed.end(), [&](const ListedCustomer& a, const ListedCustomer& b) {
        return std::tuple(-at_stake(a), a.group, a.place) < std::tuple(-at_stake(b), b.group, b.place);
      });
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  Counts counts{options, input.daybook, {}, {}, {}, {}, {}, {}, false};
  counts.is_sample = input.population.one_in > 0;
  PEAR_ASSIGN(counts.groups, analysis::group_customers(options.by, lines));
  counts.orders = count_orders(input, options, counts.groups);
  PEAR_ASSIGN(counts.values, customer_values(input, options, counts.orders, lines));
  PEAR_ASSIGN(counts.distribution, distribute(counts.values, options, counts.groups));
  if (options.list) list_customers(counts);
  if (options.list && !options.within) counts.quiet = find_quiet_customers(input, options.horizon);
  sort_listed(counts);
  return counts;
}

}  // namespace pear::frequency
