#include "recommender/rates/untriggered_rates.hpp"

#include <algorithm>

#include "recommender/parallel_counting.hpp"
#include "recommender/prior_weights.hpp"
#include "recommender/probability_sum.hpp"

namespace pear::recommender {
namespace {

/// Observed and expected purchases of customers for whom no step triggers the product.
struct UntriggeredPurchases {
  std::int64_t observed = 0;
  ProbabilitySum expected;

  void add(const UntriggeredPurchases& other) { observed += other.observed, expected.add(other.expected); }
};

/// Visits one customer after another. One for each thread.
class UntriggeredCounter {
 public:
  UntriggeredCounter(const Baseline& base, const TriggeredProducts& triggered)
      : base_(base),
        walk_(triggered),
        purchases_(base.groups.count * base.products()),
        category_counts_(base.categories.count),
        category_shares_(base.categories.count) {}

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    const std::uint32_t group = base_.groups.group_of(customer);
    UntriggeredPurchases* purchases = &purchases_[group * base_.products()];
    std::fill(category_counts_.begin(), category_counts_.end(), 0);
    walk_.begin();
    std::uint32_t read = 0;
    for_each_landmark(history, base_.landmarks, base_.landmarks.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read) {
        ++category_counts_[base_.categories.of_product[history[read].code]];
        walk_.buy(history[read].code);
      }
      base_.shares.of_categories(group, category_counts_, now.known, category_shares_);
      const double items = base_.rate.at(customer, now.landmark);
      for (std::uint32_t product = 0; product < base_.products(); ++product)
        if (walk_.is_open(product))
          purchases[product].expected.add(base_.probability(
              items * category_shares_[base_.categories.of_product[product]], group, product));
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry) {
        const std::uint32_t code = history[entry].code;
        if (history[entry].is_first != 0 && walk_.is_open(code)) ++purchases[code].observed;
      }
    });
  }

  void add(const UntriggeredCounter& other) {
    for (std::size_t place = 0; place < purchases_.size(); ++place)
      purchases_[place].add(other.purchases_[place]);
  }
  /// By group, then product.
  [[nodiscard]] const std::vector<UntriggeredPurchases>& purchases() const { return purchases_; }

 private:
  const Baseline& base_;
  TriggerWalk walk_;
  std::vector<UntriggeredPurchases> purchases_;
  std::vector<std::uint32_t> category_counts_;
  std::vector<double> category_shares_;
};

}  // namespace

TriggeredProducts triggered_by(const std::vector<Step>& steps, std::size_t products) {
  TriggeredProducts triggered(products);
  for (const Step& step : steps)
    if (step.earlier != step.later) triggered[step.earlier].push_back(step.later);
  return triggered;
}

std::vector<double> untriggered_ratios(const Baseline& base, const TriggeredProducts& triggered) {
  constexpr std::size_t kMostPairs = 20'000'000;  // far more than the ratios need
  const std::size_t products = base.products();
  const CustomerSample sample = CustomerSample::of_about(kMostPairs, base.histories.customers() * products);
  tbb::enumerable_thread_specific<UntriggeredCounter> counters(
      [&] { return UntriggeredCounter(base, triggered); });
  look_at_all(base.histories, counters, sample);
  const std::vector<UntriggeredPurchases>& sums = added_up(counters).purchases();
  std::vector<UntriggeredPurchases> all(products);
  for (std::size_t place = 0; place < sums.size(); ++place) all[place % products].add(sums[place]);
  const auto shrunk = [&](const UntriggeredPurchases& sum, double usual) {
    return (static_cast<double>(sum.observed) / base.landmarks.overlap + prior_weight::kUntriggered * usual) /
           (sum.expected.value() / base.landmarks.overlap + prior_weight::kUntriggered);
  };
  std::vector<double> ratios;
  for (std::size_t place = 0; place < sums.size(); ++place)
    ratios.push_back(shrunk(sums[place], shrunk(all[place % products], 1)));
  return ratios;
}

}  // namespace pear::recommender
