#include "questions/frequency/order_counts.hpp"

#include <utility>

#include "analysis/parallel_fold.hpp"
#include "daybook/purchases.hpp"
#include "statistics/quantile.hpp"

namespace pear::frequency {
namespace {

void add_one(std::vector<std::uint64_t>& tallies, std::size_t value) {
  if (tallies.size() <= value) tallies.resize(value + 1);
  ++tallies[value];
}

/// The counts of a run of customers.
struct FrequencyState {
  std::vector<OrderFacts> groups;
  std::uint64_t without_order = 0, incomplete = 0;
  std::vector<std::int32_t> days;  ///< of the current customer, between one order and the next
};

void merge(FrequencyState& earlier, const FrequencyState& later) {
  for (std::size_t i = 0; i < earlier.groups.size(); ++i) {
    OrderFacts& facts = earlier.groups[i];
    const OrderFacts& more = later.groups[i];
    facts.customers += more.customers;
    facts.ordered_again += more.ordered_again;
    facts.orders += more.orders;
    add_all(facts.days_between, more.days_between);
    add_all(facts.typical_days, more.typical_days);
  }
  earlier.without_order += later.without_order;
  earlier.incomplete += later.incomplete;
}

/// Counts the orders of one customer's window.
class OrderCounter {
 public:
  OrderCounter(const analysis::QuestionInput& input, const Options& options,
               const analysis::CustomerGroups& groups, std::vector<std::uint32_t>& orders)
      : daybook_(input.daybook),
        days_(input.daybook.order_days()),
        purchases_(input.daybook),
        data_end_(input.data_end),
        options_(options),
        groups_(groups),
        orders_(orders) {}

  void absorb(FrequencyState& state, std::uint32_t customer) const {
    const daybook::Run run = daybook_.orders_of(customer);
    std::uint32_t order = run.begin;
    while (order < run.end && !purchases_.is_order(order)) ++order;
    if (order == run.end) {
      ++state.without_order;
      return;
    }
    const std::int64_t last = last_day(options_, daybook_.date_of_order(order));
    const bool incomplete = options_.within && last > data_end_.days;
    if (incomplete) ++state.incomplete;
    if (incomplete && !options_.include_incomplete) return;
    OrderFacts& facts = state.groups[groups_.group_of(customer)];
    std::int32_t before = days_[order];
    std::uint32_t orders = 1;
    state.days.clear();
    for (++order; order < run.end && days_[order] <= last; ++order) {
      if (!purchases_.is_order(order)) continue;
      ++orders;
      state.days.push_back(days_[order] - before);
      before = days_[order];
      add_one(facts.days_between, static_cast<std::size_t>(state.days.back()));
    }
    orders_[customer] = orders;
    ++facts.customers;
    facts.orders += orders;
    if (orders == 1) return;
    ++facts.ordered_again;
    add_one(facts.typical_days,
            static_cast<std::size_t>(*statistics::quantile_of(state.days, statistics::kHalf)));
  }

 private:
  const daybook::Daybook& daybook_;
  std::span<const std::int32_t> days_;
  daybook::Purchases purchases_;
  Date data_end_;
  const Options& options_;
  const analysis::CustomerGroups& groups_;
  std::vector<std::uint32_t>& orders_;  ///< each customer's is written once
};

}  // namespace

void add_all(std::vector<std::uint64_t>& to, const std::vector<std::uint64_t>& from) {
  if (to.size() < from.size()) to.resize(from.size());
  for (std::size_t i = 0; i < from.size(); ++i) to[i] += from[i];
}

OrderCounts count_orders(const analysis::QuestionInput& input, const Options& options,
                         const analysis::CustomerGroups& groups) {
  OrderCounts tallies;
  tallies.orders.resize(input.daybook.customers());
  const OrderCounter counter(input, options, groups, tallies.orders);
  FrequencyState state = analysis::fold_customers(
      input.daybook,
      [&] {
        return FrequencyState{std::vector<OrderFacts>(groups.count), 0, 0, {}};
      },
      [&](FrequencyState& own, std::uint32_t customer) { counter.absorb(own, customer); }, merge);
  tallies.groups = std::move(state.groups);
  tallies.without_order = state.without_order;
  tallies.incomplete = state.incomplete;
  return tallies;
}

}  // namespace pear::frequency
