// How much of a product is bought without any step to it.
#include <algorithm>

#include "recommender/parallel_counting.hpp"
#include "recommender/step_tests.hpp"

namespace pear::recommender {
namespace {

/// Purchases seen and expected of customers whom no step leads to the product.
struct UnledPurchases {
  std::int64_t seen = 0;
  ProbabilitySum expected;

  void add(const UnledPurchases& other) { seen += other.seen, expected.add(other.expected); }
};

/// Looks at one customer after another. One for each thread.
class UnledCounter {
 public:
  UnledCounter(const Baseline& base, const TriggeredProducts& led_to)
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
    for_each_landmark(history, base_.lookback, base_.lookback.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read) {
        ++shelf_counts_[base_.shelves.of_product[history[read].code]];
        led_.buy(history[read].code);
      }
      base_.shares.of_shelves(group, shelf_counts_, now.known, shelf_shares_);
      const double items = base_.items.at(customer, now.landmark);
      for (std::uint32_t product = 0; product < products_; ++product)
        if (led_.is_open(product))
          purchases_[group * products_ + product].expected.add(
              probability_of_any(items * shelf_shares_[base_.shelves.of_product[product]] *
                                     base_.shares.of_product(group, product),
                                 base_.items.dispersion()));
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry) {
        const std::uint32_t code = history[entry].code;
        if (history[entry].is_first != 0 && led_.is_open(code)) ++purchases_[group * products_ + code].seen;
      }
    });
  }

  void add(const UnledCounter& other) {
    for (std::size_t place = 0; place < purchases_.size(); ++place)
      purchases_[place].add(other.purchases_[place]);
  }
  /// By group, then product.
  [[nodiscard]] const std::vector<UnledPurchases>& purchases() const { return purchases_; }

 private:
  const Baseline& base_;
  std::size_t products_;
  TriggerWalk led_;
  std::vector<UnledPurchases> purchases_;
  std::vector<std::uint32_t> shelf_counts_;
  std::vector<double> shelf_shares_;
};

}  // namespace

TriggeredProducts triggered_by(const std::vector<Step>& steps, std::size_t products) {
  TriggeredProducts led_to(products);
  for (const Step& step : steps)
    if (step.earlier != step.later) led_to[step.earlier].push_back(step.later);
  return led_to;
}

std::vector<double> untriggered_ratios(const Baseline& base, const TriggeredProducts& led_to) {
  constexpr std::size_t kMostPairs = 20'000'000;
  constexpr double kDrawn = 20;
  const std::size_t products = base.histories.counts.size();
  const auto apart = static_cast<std::uint32_t>(1 + base.histories.customers() * products / kMostPairs);
  tbb::enumerable_thread_specific<UnledCounter> counters([&] { return UnledCounter(base, led_to); });
  look_at_all(base.histories, counters, apart);
  const std::vector<UnledPurchases>& sums = added_up(counters).purchases();
  std::vector<UnledPurchases> all(products);
  for (std::size_t place = 0; place < sums.size(); ++place) all[place % products].add(sums[place]);
  const auto drawn = [&](const UnledPurchases& sum, double usual) {
    return (static_cast<double>(sum.seen) / base.lookback.overlap + kDrawn * usual) /
           (sum.expected.value() / base.lookback.overlap + kDrawn);
  };
  std::vector<double> ratios;
  for (std::size_t place = 0; place < sums.size(); ++place)
    ratios.push_back(drawn(sums[place], drawn(all[place % products], 1)));
  return ratios;
}

}  // namespace pear::recommender
