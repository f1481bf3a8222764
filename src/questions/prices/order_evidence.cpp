#include "questions/prices/order_evidence.hpp"

#include <algorithm>
#include <array>
#include <span>

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_reduce.h>

#include "base/date.hpp"
#include "statistics/raking.hpp"
#include "statistics/significance.hpp"

namespace pear::prices {
namespace {

constexpr std::size_t kSizes = 5;  ///< 1, 2, 3, 4 to 5, 6 and more compared lines

std::size_t size_class(std::uint32_t lines) { return lines < 4 ? lines - 1 : lines < 6 ? 3 : 4; }

/// What an order shows.
struct Shown {
  bool is_compared = false, is_below_expected = false, is_below_usual = false;
  std::uint32_t cell = 0;  ///< its month x kSizes + its size class
};

/// The probability that an order is low, by month and size.
class Rates {
 public:
  explicit Rates(std::size_t months) : months_(months), orders_(months * kSizes), low_(months * kSizes) {}

  void add(std::size_t cell, bool is_low) {
    ++orders_[cell];
    low_[cell] += is_low ? 1 : 0;
  }
  /// Counts are whole numbers, so their sums do not depend on the order.
  void add(const Rates& other) {
    for (std::size_t cell = 0; cell < orders_.size(); ++cell) {
      orders_[cell] += other.orders_[cell];
      low_[cell] += other.low_[cell];
    }
  }
  void fit() {
    constexpr double kPrior = 10;  // low orders
    double orders = 0, low = 0;
    for (std::size_t cell = 0; cell < orders_.size(); ++cell) orders += orders_[cell], low += low_[cell];
    const double rate = orders == 0 ? 0 : low / orders;
    std::vector<statistics::RakedCell<2>> cells;
    for (std::size_t cell = 0; cell < orders_.size(); ++cell)
      if (orders_[cell] > 0)
        cells.push_back({{cell / kSizes, cell % kSizes}, low_[cell], orders_[cell] * rate});
    const auto factors = statistics::rake<2>(cells, {months_, kSizes}, kPrior);
    for (std::size_t cell = 0; cell < orders_.size(); ++cell)
      rates_.push_back(std::min(1.0, rate * factors.at({cell / kSizes, cell % kSizes})));
  }
  [[nodiscard]] double at(std::size_t cell) const { return rates_[cell]; }

 private:
  std::size_t months_;
  std::vector<double> orders_, low_, rates_;
};

class Evidence {
 public:
  Evidence(const daybook::Daybook& daybook, const PriceComparison& prices, const PriceOfTheTime& time)
      : daybook_(daybook),
        prices_(prices),
        time_(time),
        products_(daybook.parts().line_products),
        shown_(daybook.orders()) {
    for (std::uint32_t product = 0; product < prices.products().size(); ++product)
      usual_levels_.push_back(prices.is_judged(product) ? prices.usual_level(product) : 0);
    const auto days = daybook.order_days();
    if (days.empty()) return;
    const auto [first, last] = std::minmax_element(days.begin(), days.end());
    first_month_ = month_of(Date{*first});
    months_ = static_cast<std::size_t>(month_of(Date{*last}).index - first_month_.index) + 1;
  }

  std::vector<OrderEvidence> gather() {
    tbb::parallel_for(std::uint32_t{0}, daybook_.orders(), [&](std::uint32_t order) { compare(order); });
    std::vector<OrderEvidence> customers(daybook_.customers());
    tbb::parallel_for(std::uint32_t{0}, daybook_.customers(), [&](std::uint32_t customer) {
      for_compared(customer, [&](std::uint32_t order) {
        ++customers[customer].orders;
        customers[customer].expected.orders += shown_[order].is_below_expected ? 1U : 0U;
        customers[customer].usual.orders += shown_[order].is_below_usual ? 1U : 0U;
      });
    });
    test(customers, &OrderEvidence::expected, &Shown::is_below_expected);
    test(customers, &OrderEvidence::usual, &Shown::is_below_usual);
    return customers;
  }

 private:
  [[nodiscard]] std::size_t month(std::uint32_t order) const {
    return static_cast<std::size_t>(month_of(Date{daybook_.order_days()[order]}).index - first_month_.index);
  }

  void compare(std::uint32_t order) {
    double amount = 0, expected = 0, usual = 0;
    std::uint32_t compared = 0;
    const daybook::Run lines = daybook_.lines_of(order);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      const std::uint32_t pair = prices_.paid().pair_of(line);
      if (pair == CustomerProductPrices::kNoPair || time_.of_line(line) <= 0) continue;
      const std::uint32_t product = products_[line];
      if (!prices_.is_judged(product)) continue;
      amount += static_cast<double>(daybook_.amounts()[line]);
      expected += time_.of_line(line) * prices_.expected_index(pair);
      usual += time_.of_line(line) * usual_levels_[product];
      ++compared;
    }
    if (compared == 0) return;
    shown_[order] = {true, is_clearly_less(amount, expected), is_clearly_less(amount, usual),
                     static_cast<std::uint32_t>(month(order) * kSizes + size_class(compared))};
  }

  template <class Visit>
  void for_compared(std::uint32_t customer, const Visit& visit) const {
    const daybook::Run orders = daybook_.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order)
      if (shown_[order].is_compared) visit(order);
  }

  /// Sets q values; in rounds, as order_evidence() says.
  void test(std::vector<OrderEvidence>& customers, OrderEvidence::Below OrderEvidence::*below,
            bool Shown::*is_below) const {
    constexpr int kMostRounds = 6;
    std::size_t clear = 0;
    for (int round = 0; round < kMostRounds; ++round) {
      test_once(customers, below, is_below);
      const auto now = static_cast<std::size_t>(
          std::count_if(customers.begin(), customers.end(),
                        [&](const OrderEvidence& each) { return each.is_clear(each.*below); }));
      if (now <= clear) return;
      clear = now;
    }
  }

  void test_once(std::vector<OrderEvidence>& customers, OrderEvidence::Below OrderEvidence::*below,
                 bool Shown::*is_below) const {
    using Customers = tbb::blocked_range<std::uint32_t>;
    Rates rates = tbb::parallel_reduce(
        Customers(0, daybook_.customers(), 4096), Rates(months_),
        [&](const Customers& part, Rates sums) {
          for (std::uint32_t customer = part.begin(); customer != part.end(); ++customer)
            if (!customers[customer].is_clear(customers[customer].*below))
              for_compared(customer, [&](std::uint32_t order) {
                sums.add(shown_[order].cell, shown_[order].*is_below);
              });
          return sums;
        },
        [](Rates a, const Rates& b) {
          a.add(b);
          return a;
        });
    rates.fit();
    std::vector<std::uint32_t> tested;
    for (std::uint32_t customer = 0; customer < daybook_.customers(); ++customer)
      if (customers[customer].orders > 0) tested.push_back(customer);
    std::vector<double> p_values(tested.size(), 1);
    tbb::parallel_for(std::size_t{0}, tested.size(), [&](std::size_t i) {
      const OrderEvidence& each = customers[tested[i]];
      if ((each.*below).orders == 0) return;
      double sum = 0;
      for_compared(tested[i], [&](std::uint32_t order) { sum += rates.at(shown_[order].cell); });
      p_values[i] = statistics::probability_of_at_least((each.*below).orders, each.orders, sum / each.orders);
    });
    const std::vector<double> q_values = statistics::q_values(p_values, p_values.size());
    for (std::size_t i = 0; i < tested.size(); ++i) (customers[tested[i]].*below).q_value = q_values[i];
  }

  const daybook::Daybook& daybook_;
  const PriceComparison& prices_;
  const PriceOfTheTime& time_;
  std::span<const std::uint32_t> products_;  ///< by line
  std::vector<double> usual_levels_;         ///< by product
  Month first_month_;
  std::size_t months_ = 1;
  std::vector<Shown> shown_;
};

}  // namespace

bool OrderEvidence::is_clear(const Below& below) const {
  return below.q_value <= statistics::kFalseDiscovery && below.orders >= below.most * orders;
}

std::vector<OrderEvidence> order_evidence(const daybook::Daybook& daybook, const PriceComparison& prices,
                                          const PriceOfTheTime& time) {
  return Evidence(daybook, prices, time).gather();
}

}  // namespace pear::prices
