#include "questions/prices/price_of_the_time.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <tbb/parallel_for.h>
#include <tbb/parallel_sort.h>

#include "statistics/quantile.hpp"

namespace pear::prices {
namespace {

constexpr std::size_t kFewestOrders = 15, kFewestPurchases = 7;  ///< of the time

}  // namespace

/// Finds the prices of lines, relative to each product's median at first.
class TimeFinder {
 public:
  TimeFinder(const daybook::Daybook& daybook, const CustomerProductPrices& paid, PriceOfTheTime& found)
      : daybook_(daybook),
        paid_(paid),
        found_(found),
        products_(daybook.parts().line_products),
        amounts_(daybook.amounts()),
        quantities_(std::get<daybook::DecimalValues>(daybook.find(daybook::role::kQuantity)->values).units),
        days_(daybook.order_days()) {}

  void find() {
    list_purchases();
    find_medians();
    find_orders();
    found_.of_line_.resize(products_.size());
    found_.of_pair_.resize(paid_.size());
    tbb::parallel_for(std::uint32_t{0}, paid_.products(), [&](std::uint32_t product) {
      if (medians_[product] > 0) set_prices(product);
    });
  }

 private:
  [[nodiscard]] double price(std::uint32_t line) const {
    return static_cast<double>(amounts_[line]) / static_cast<double>(quantities_[line]);
  }
  [[nodiscard]] bool has_price(std::uint32_t line) const {
    return paid_.pair_of(line) != CustomerProductPrices::kNoPair;
  }

  /// Visits the lines with a price of one of kBlocks parts of the orders.
  template <class Visit>
  void for_lines(std::size_t block, const Visit& visit) const {
    const std::size_t orders = daybook_.orders();
    const auto begin = static_cast<std::uint32_t>(orders * block / kBlocks),
               end = static_cast<std::uint32_t>(orders * (block + 1) / kBlocks);
    for (std::uint32_t order = begin; order < end; ++order) {
      const daybook::Run lines = daybook_.lines_of(order);
      for (std::uint32_t line = lines.begin; line < lines.end; ++line)
        if (has_price(line)) visit(line, order);
    }
  }

  /// The purchases of each product: counted in each block of orders, which gives their places, and then
  /// filled in.
  void list_purchases() {
    const std::size_t products = paid_.products();
    std::vector<std::uint32_t> next(kBlocks * products);  // by block, then by product
    tbb::parallel_for(std::size_t{0}, kBlocks, [&](std::size_t block) {
      for_lines(block,
                [&](std::uint32_t line, std::uint32_t) { ++next[block * products + products_[line]]; });
    });
    std::uint32_t purchases = 0;
    for (std::size_t product = 0; product < products; ++product) {
      begins_.push_back(purchases);
      for (std::size_t block = 0; block < kBlocks; ++block)
        purchases += std::exchange(next[block * products + product], purchases);
    }
    begins_.push_back(purchases);
    purchases_.resize(purchases);
    prices_.resize(purchases);
    tbb::parallel_for(std::size_t{0}, kBlocks, [&](std::size_t block) {
      for_lines(block, [&](std::uint32_t line, std::uint32_t order) {
        purchases_[next[block * products + products_[line]]++] = {days_[order], order, line};
      });
    });
  }

  /// Of each product's purchases, which are then in order of time.
  void find_medians() {
    medians_.resize(paid_.products());
    tbb::parallel_for(std::uint32_t{0}, paid_.products(), [&](std::uint32_t product) {
      const std::span<Purchase> purchases = of_product(purchases_, product);
      std::sort(purchases.begin(), purchases.end(), [](const Purchase& a, const Purchase& b) {
        return a.day != b.day ? a.day < b.day : a.line < b.line;
      });
      const std::span<double> prices = of_product(prices_, product);
      for (std::size_t i = 0; i < purchases.size(); ++i) prices[i] = price(purchases[i].line);
      std::vector<double> sorted(prices.begin(), prices.end());
      if (!sorted.empty()) medians_[product] = *statistics::quantile_of(sorted, statistics::kHalf);
    });
  }

  /// By order, what orders paid at that time, relative to the median prices.
  void find_orders() {
    of_order_.assign(daybook_.orders(), 1);
    tbb::parallel_for(std::uint32_t{0}, daybook_.orders(), [&](std::uint32_t order) {
      double amount = 0, at_median = 0;
      const daybook::Run lines = daybook_.lines_of(order);
      for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
        if (!has_price(line)) continue;
        amount += static_cast<double>(amounts_[line]);
        at_median += static_cast<double>(quantities_[line]) * medians_[products_[line]];
      }
      of_order_[order] = static_cast<float>(amount / at_median);  // NaN if it has no price
    });
    std::vector<std::uint64_t> by_time;  // the day, from 0 on, and the order
    const auto first = days_.empty() ? 0 : *std::min_element(days_.begin(), days_.end());
    for (std::uint32_t order = 0; order < daybook_.orders(); ++order)
      if (std::isfinite(of_order_[order]))
        by_time.push_back(static_cast<std::uint64_t>(std::int64_t{days_[order]} - first) << 32U | order);
    tbb::parallel_sort(by_time.begin(), by_time.end());
    std::vector<DatedValue> ratios;
    ratios.reserve(by_time.size());
    for (const std::uint64_t each : by_time) {
      const auto order = static_cast<std::uint32_t>(each);
      ratios.push_back({days_[order], static_cast<double>(of_order_[order])});
    }
    const std::vector<double> around = running_upper_quartile(ratios, kFewestOrders);
    for (std::size_t i = 0; i < by_time.size(); ++i)
      of_order_[static_cast<std::uint32_t>(by_time[i])] = around[i] > 0 ? static_cast<float>(around[i]) : 1;
  }

  /// Values from all over memory are read in loops of their own, so that the processor waits for many of them
  /// at once.
  void set_prices(std::uint32_t product) {
    const auto purchases = of_product(purchases_, product);
    const auto prices = of_product(prices_, product);
    std::vector<double> expected(purchases.size());
    std::vector<DatedValue> ratios(purchases.size());
    for (std::size_t i = 0; i < purchases.size(); ++i) {
      expected[i] = medians_[product] * static_cast<double>(of_order_[purchases[i].order]);
      ratios[i] = {purchases[i].day, prices[i] / expected[i]};
    }
    const std::vector<double> around = running_upper_quartile(ratios, kFewestPurchases);
    std::vector<float> costs(purchases.size());
    std::vector<std::uint32_t> pairs(purchases.size());
    for (std::size_t i = 0; i < purchases.size(); ++i) {
      const std::uint32_t line = purchases[i].line;
      costs[i] = static_cast<float>(static_cast<double>(quantities_[line]) * expected[i] * around[i]);
      pairs[i] = paid_.pair_of(line);
    }
    for (std::size_t i = 0; i < purchases.size(); ++i) {
      found_.of_line_[purchases[i].line] = costs[i];
      found_.of_pair_[pairs[i]] += static_cast<double>(costs[i]);
    }
  }

  struct Purchase {
    std::int32_t day;
    std::uint32_t order, line;
  };
  template <class T>
  [[nodiscard]] std::span<T> of_product(std::vector<T>& values, std::uint32_t product) const {
    return std::span(values).subspan(begins_[product], begins_[product + 1] - begins_[product]);
  }

  static constexpr std::size_t kBlocks = 64;

  const daybook::Daybook& daybook_;
  const CustomerProductPrices& paid_;
  PriceOfTheTime& found_;
  std::span<const std::uint32_t> products_;
  std::span<const std::int64_t> amounts_, quantities_;
  std::span<const std::int32_t> days_;
  std::vector<std::uint32_t> begins_;  ///< by product its first purchase, and the end
  std::vector<Purchase> purchases_;
  std::vector<double> prices_;   ///< of a piece, by purchase
  std::vector<double> medians_;  ///< by product, price of a piece; 0 if there is none
  std::vector<float> of_order_;  ///< NaN for orders without a price
};

PriceOfTheTime::PriceOfTheTime(const daybook::Daybook& daybook, const CustomerProductPrices& paid) {
  TimeFinder(daybook, paid, *this).find();
}

std::vector<double> running_upper_quartile(const std::vector<DatedValue>& values, std::size_t fewest) {
  std::vector<double> quartiles(values.size()), window;
  for (std::size_t begin = 0, end = 0; begin < values.size(); begin = end) {
    const std::int32_t day = values[begin].day;
    while (end < values.size() && values[end].day == day) ++end;
    std::size_t from = begin, until = end;  // of the window
    while (until - from < fewest && (from > 0 || until < values.size())) {
      const bool is_one_sided = from == 0 || until == values.size();
      if (is_one_sided && 2 * (until - from) >= fewest) break;
      const std::int32_t earlier = from == 0 ? INT32_MIN : values[from - 1].day,
                         later = until == values.size() ? INT32_MAX : values[until].day;
      const auto distance = std::min(std::int64_t{day} - earlier, std::int64_t{later} - day);
      while (from > 0 && day - values[from - 1].day <= distance) --from;
      while (until < values.size() && values[until].day - day <= distance) ++until;
    }
    window.clear();
    for (std::size_t i = from; i < until; ++i) window.push_back(values[i].value);
    std::fill(quartiles.begin() + static_cast<std::ptrdiff_t>(begin),
              quartiles.begin() + static_cast<std::ptrdiff_t>(end),
              *statistics::quantile_of(window, statistics::kThreeQuarters));
  }
  return quartiles;
}

}  // namespace pear::prices
