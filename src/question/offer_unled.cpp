// How much of a product is bought without any step to it.
#include <algorithm>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "question/offer_steps.hpp"

namespace pear {
namespace {

/// Purchases seen and expected of customers whom no step leads to the product.
struct UnledPurchases {
  std::int64_t seen = 0;
  ChanceSum expected;
};

/// Looks at one customer after another. One for each thread.
class UnledCounter {
 public:
  UnledCounter(const OfferBase& base, const LedProducts& led_to)
      : base_(base),
        products_(base.histories.counts.size()),
        led_(led_to),
        purchases_(base.groups.count * products_),
        shelf_counts_(base.shelves.count),
        shelf_shares_(base.shelves.count) {}

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    const std::uint32_t group = base_.groups.group_of(customer);
    std::fill(shelf_counts_.begin(), shelf_counts_.end(), 0);
    led_.begin();
    std::uint32_t read = 0;
    walk_cases(history, base_.lookback, base_.lookback.days, [&](const CustomerCase& now) {
      for (; read < now.known; ++read) {
        ++shelf_counts_[base_.shelves.of_product[history[read].code]];
        led_.buy(history[read].code);
      }
      base_.shares.of_shelves(group, shelf_counts_, now.known, shelf_shares_);
      const double items = base_.items.at(customer, now.landmark);
      for (std::uint32_t product = 0; product < products_; ++product)
        if (led_.is_open(product))
          purchases_[group * products_ + product].expected.add(
              chance_of_any(items * shelf_shares_[base_.shelves.of_product[product]] *
                                base_.shares.of_product(group, product),
                            base_.items.dispersion()));
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry) {
        const std::uint32_t code = history[entry].code;
        if (history[entry].is_first != 0 && led_.is_open(code)) ++purchases_[group * products_ + code].seen;
      }
    });
  }

  /// By group, then product.
  [[nodiscard]] const std::vector<UnledPurchases>& purchases() const { return purchases_; }

 private:
  const OfferBase& base_;
  std::size_t products_;
  LedWalk led_;
  std::vector<UnledPurchases> purchases_;
  std::vector<std::uint32_t> shelf_counts_;
  std::vector<double> shelf_shares_;
};

}  // namespace

LedProducts led_by(const std::vector<FoundStep>& steps, std::size_t products) {
  LedProducts led_to(products);
  for (const FoundStep& step : steps)
    if (step.earlier != step.later) led_to[step.earlier].push_back(step.later);
  return led_to;
}

std::vector<double> unled_ratios(const OfferBase& base, const LedProducts& led_to) {
  constexpr std::size_t kMostPairs = 20'000'000;
  constexpr double kDrawn = 20;
  const std::size_t products = base.histories.counts.size();
  const auto apart = static_cast<std::uint32_t>(1 + base.histories.customers() * products / kMostPairs);
  const std::uint32_t looked_at = (base.histories.customers() + apart - 1) / apart;
  tbb::enumerable_thread_specific<UnledCounter> counters([&] { return UnledCounter(base, led_to); });
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, looked_at, 256), [&](const auto& run) {
    for (std::uint32_t i = run.begin(); i != run.end(); ++i) counters.local().look_at(i * apart);
  });
  std::vector<UnledPurchases> sums(base.groups.count * products), all(products);
  for (const UnledCounter& counter : counters)
    for (std::size_t place = 0; place < sums.size(); ++place)
      for (UnledPurchases* sum : {&sums[place], &all[place % products]}) {
        sum->seen += counter.purchases()[place].seen;
        sum->expected.add(counter.purchases()[place].expected);
      }
  const auto drawn = [&](const UnledPurchases& sum, double usual) {
    return (static_cast<double>(sum.seen) / base.lookback.overlap + kDrawn * usual) /
           (sum.expected.value() / base.lookback.overlap + kDrawn);
  };
  std::vector<double> ratios;
  for (std::size_t place = 0; place < sums.size(); ++place)
    ratios.push_back(drawn(sums[place], drawn(all[place % products], 1)));
  return ratios;
}

}  // namespace pear
