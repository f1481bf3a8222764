#include "questions/first/first_orders.hpp"

#include <algorithm>
#include <optional>

#include "daybook/by_customer.hpp"
#include "daybook/purchases.hpp"
#include "statistics/quantile.hpp"

namespace pear::first {
namespace {

class Beginner {
 public:
  Beginner(const daybook::Daybook& daybook, std::int64_t follow, Date new_from, Date data_end)
      : daybook_(daybook),
        purchases_(daybook),
        days_(daybook.order_days()),
        amounts_(daybook.amounts()),
        follow_(follow),
        new_from_(new_from),
        data_end_(data_end) {}

  [[nodiscard]] FirstOrders of(std::uint32_t customer) const {
    FirstOrders beginning;
    const daybook::Run run = daybook_.orders_of(customer);
    beginning.first = next_order(run.begin, run.end);
    set(beginning.amount, amount_of(run), beginning);
    if (beginning.first == run.end) {
      beginning.first = daybook::kNoMember;
      return beginning;
    }
    const std::uint32_t second = next_order(beginning.first + 1, run.end);
    if (second < run.end) beginning.second = second;
    const std::int64_t last_day = days_[beginning.first] + follow_ - 1;
    beginning.followed = last_day <= data_end_.days;
    beginning.is_new = days_[beginning.first] >= new_from_.days;
    beginning.orders = 1;
    for (std::uint32_t order = second; order < run.end; order = next_order(order + 1, run.end)) {
      ++beginning.orders;
      beginning.later_orders += days_[order] <= last_day ? 1U : 0U;
    }
    set(beginning.first_amount, amount_of({beginning.first, beginning.first + 1}), beginning);
    std::uint32_t end = beginning.first + 1;
    while (end < run.end && days_[end] <= last_day) ++end;
    set(beginning.later_amount, amount_of({beginning.first + 1, end}), beginning);
    return beginning;
  }

 private:
  [[nodiscard]] std::uint32_t next_order(std::uint32_t order, std::uint32_t end) const {
    while (order < end && !purchases_.is_order(order)) ++order;
    return order;
  }

  [[nodiscard]] DecimalSum amount_of(daybook::Run orders) const {
    DecimalSum sum;
    if (orders.size() == 0) return sum;
    const std::uint32_t end = daybook_.lines_of(orders.end - 1).end;
    for (std::uint32_t line = daybook_.lines_of(orders.begin).begin; line < end; ++line)
      sum.add(Decimal::from_units(amounts_[line]));
    return sum;
  }

  static void set(std::int64_t& units, const DecimalSum& sum, FirstOrders& beginning) {
    const auto total = sum.total();
    beginning.too_large |= !total;
    units = total.value_or(Decimal()).units();
  }

  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  std::span<const std::int32_t> days_;
  std::span<const std::int64_t> amounts_;
  std::int64_t follow_;
  Date new_from_, data_end_;
};

}  // namespace

std::int64_t longest_run_in(Date data_begin, Date data_end) {
  return (days_between(data_begin, data_end) + 1) / 3;
}

std::int64_t usual_run_in(const daybook::Daybook& daybook, Date data_begin, Date data_end) {
  const daybook::Purchases purchases(daybook);
  const auto days = daybook.order_days();
  std::vector<std::uint64_t> gaps(static_cast<std::size_t>(days_between(data_begin, data_end)) + 1);
  std::int32_t latest_first = data_begin.days;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    std::optional<std::int32_t> previous;
    const daybook::Run orders = daybook.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      if (!purchases.is_order(order)) continue;
      if (previous && days[order] > *previous) ++gaps[static_cast<std::size_t>(days[order] - *previous)];
      if (!previous) latest_first = std::max(latest_first, days[order]);
      previous = days[order];
    }
  }
  return usual_run_in(gaps, Date{latest_first}, data_begin, data_end);
}

std::int64_t usual_run_in(const std::vector<std::uint64_t>& gaps, Date latest_first, Date data_begin,
                          Date data_end) {
  constexpr statistics::Fraction kMost{9, 10};
  const std::int64_t run_in =
      std::min(longest_run_in(data_begin, data_end), statistics::quantile_of_counts(gaps, kMost).value_or(0));
  return run_in > days_between(data_begin, latest_first) ? 0 : run_in;
}

std::vector<FirstOrders> first_orders_of(const daybook::Daybook& daybook, std::int64_t follow, Date new_from,
                                         Date data_end) {
  const Beginner beginner(daybook, follow, new_from, data_end);
  return daybook::by_customer<FirstOrders>(daybook,
                                           [&](std::uint32_t customer) { return beginner.of(customer); });
}

}  // namespace pear::first
