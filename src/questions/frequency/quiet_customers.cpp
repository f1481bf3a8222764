#include "questions/frequency/quiet_customers.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "daybook/by_customer.hpp"
#include "daybook/purchases.hpp"
#include "statistics/quantile.hpp"

namespace pear::frequency {
namespace {

constexpr std::uint64_t kFewestNext = 100, kFewestObserved = 20;
constexpr statistics::Fraction kNineTenths{9, 10};

/// The days of each customer's orders, as one array with an end by customer.
struct OrderDays {
  std::vector<std::int32_t> days;
  std::vector<std::size_t> ends;

  [[nodiscard]] std::span<const std::int32_t> of(std::size_t customer) const {
    const std::size_t begin = customer == 0 ? 0 : ends[customer - 1];
    return std::span(days).subspan(begin, ends[customer] - begin);
  }
};

OrderDays order_days_of(const daybook::Daybook& daybook) {
  const daybook::Purchases purchases(daybook);
  OrderDays all;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    const daybook::Run orders = daybook.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order)
      if (purchases.is_order(order)) all.days.push_back(daybook.order_days()[order]);
    all.ends.push_back(all.days.size());
  }
  return all;
}

std::size_t place_of(std::size_t number) {
  std::size_t place = 0;
  while (kOrderNumbers.at(place) != 0 && number > kOrderNumbers.at(place)) ++place;
  return place;
}

std::vector<WaitingTimes> waiting_times(const OrderDays& orders, Date data_end) {
  const auto first = std::min_element(orders.days.begin(), orders.days.end());
  const auto days = static_cast<std::size_t>(first == orders.days.end() ? 0 : data_end.days - *first) + 1;
  std::vector<WaitingTimes> bands = no_waiting_times(days - 1);
  for (std::size_t customer = 0; customer < orders.ends.size(); ++customer) {
    const auto own = orders.of(customer);
    for (std::size_t i = 0; i < own.size(); ++i) {
      const bool is_last = i + 1 == own.size();
      const auto waited = static_cast<std::size_t>((is_last ? data_end.days : own[i + 1]) - own[i]);
      bands[place_of(i + 1)].add(waited, is_last);
    }
  }
  return bands;
}

OrderBand band_of(std::uint32_t from, std::uint32_t to, const WaitingTimes& times) {
  OrderBand band;
  band.from = from, band.to = to;
  band.orders = times.all, band.next = times.followed;
  band.label = to == 0      ? fmt::format("{}+", from)
               : from == to ? std::to_string(from)
                            : fmt::format("{}-{}", from, to);
  band.usual_days = statistics::quantile_of_counts(times.next, kNineTenths).value_or(0);
  band.curve = statistics::kaplan_meier(times.next, times.ended, times.all);
  return band;
}

void add_all(WaitingTimes& to, const WaitingTimes& from) {
  for (std::size_t day = 0; day < to.next.size(); ++day) {
    to.next[day] += from.next[day];
    to.ended[day] += from.ended[day];
  }
  to.all += from.all;
  to.followed += from.followed;
}

/// From the largest numbers of orders down, so that the last band has no end.
std::vector<OrderBand> bands_of(std::vector<WaitingTimes> times) {
  std::vector<OrderBand> bands;
  std::uint32_t to = kOrderNumbers.back();
  for (std::size_t place = times.size(); place-- > 0;) {
    const std::uint32_t from = place == 0 ? 1 : kOrderNumbers.at(place - 1) + 1;
    if (place > 0 && times[place].followed < kFewestNext) {
      add_all(times[place - 1], times[place]);
      continue;
    }
    bands.push_back(band_of(from, to, times[place]));
    to = from - 1;
  }
  std::reverse(bands.begin(), bands.end());
  return bands;
}

/// Of the lines on the last 365 days up to the last order, and of returns after it.
std::int64_t yearly_amount(const daybook::Daybook& daybook, std::uint32_t customer, std::int32_t last_day) {
  DecimalSum sum;
  const daybook::Run orders = daybook.orders_of(customer);
  for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
    if (daybook.order_days()[order] <= last_day - kYear) continue;
    const daybook::Run lines = daybook.lines_of(order);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line)
      sum.add(Decimal::from_units(daybook.amounts()[line]));
  }
  return sum.total().value_or(Decimal()).units();
}

QuietCustomer customer_of(const daybook::Daybook& daybook, std::uint32_t customer,
                          std::span<const std::int32_t> days, Date data_end) {
  QuietCustomer quiet;
  quiet.orders = static_cast<std::uint32_t>(days.size());
  if (days.empty()) return quiet;
  quiet.silent_days = data_end.days - days.back();
  std::vector<std::int64_t> between;
  for (std::size_t i = 1; i < days.size(); ++i) between.push_back(days[i] - days[i - 1]);
  quiet.median_days = statistics::quantile_of(between, statistics::kHalf);
  quiet.yearly_amount = yearly_amount(daybook, customer, days.back());
  return quiet;
}

void complete(QuietCustomer& quiet, const std::vector<OrderBand>& bands, std::int64_t horizon) {
  if (quiet.orders == 0) return;
  while (quiet.band + 1 < bands.size() && quiet.orders >= bands[quiet.band + 1].from) ++quiet.band;
  const OrderBand& band = bands[quiet.band];
  quiet.is_quiet = band.next > 0 && quiet.silent_days > band.usual_days;
  if (!quiet.is_quiet || quiet.yearly_amount <= 0) return;
  constexpr std::int64_t kCent = Decimal::kScale / 100;
  const double share = band.share_after(quiet.silent_days, horizon).value_or(0);
  quiet.at_stake = std::llround(share * static_cast<double>(quiet.yearly_amount) / kCent) * kCent;
}

}  // namespace

std::uint64_t OrderBand::observed_after(std::int64_t silent_days) const {
  const auto next_day = static_cast<std::size_t>(silent_days) + 1;
  return next_day < curve.size() ? curve[next_day].at_risk : 0;
}

std::optional<double> OrderBand::share_after(std::int64_t silent_days, std::int64_t horizon) const {
  const auto now = static_cast<std::size_t>(silent_days),
             then = static_cast<std::size_t>(silent_days + horizon);
  if (then >= curve.size() || !curve[then].is_known || observed_after(silent_days) < kFewestObserved)
    return std::nullopt;
  const double still = 1 - curve[now].share;
  return still <= 0 ? std::nullopt : std::optional((curve[then].share - curve[now].share) / still);
}

void WaitingTimes::add(std::size_t days, bool is_last, std::uint32_t orders) {
  (is_last ? ended : next)[days] += orders;
  all += orders;
  if (!is_last) followed += orders;
}

std::vector<WaitingTimes> no_waiting_times(std::size_t most_days) {
  const std::vector<std::uint32_t> none(most_days + 1);
  return std::vector<WaitingTimes>(kOrderNumbers.size(), WaitingTimes{none, none});
}

QuietCustomers quiet_customers_of(std::vector<WaitingTimes> times, std::vector<QuietCustomer> customers,
                                  std::int64_t horizon) {
  QuietCustomers quiet{horizon, bands_of(std::move(times)), std::move(customers)};
  tbb::parallel_for(std::size_t{0}, quiet.customers.size(),
                    [&](std::size_t customer) { complete(quiet.customers[customer], quiet.bands, horizon); });
  return quiet;
}

QuietCustomers find_quiet_customers(const analysis::QuestionInput& input, std::int64_t horizon) {
  const OrderDays orders = order_days_of(input.daybook);
  std::vector<QuietCustomer> customers =
      daybook::by_customer<QuietCustomer>(input.daybook, [&](std::uint32_t customer) {
        return customer_of(input.daybook, customer, orders.of(customer), input.data_end);
      });
  return quiet_customers_of(waiting_times(orders, input.data_end), std::move(customers), horizon);
}

}  // namespace pear::frequency
