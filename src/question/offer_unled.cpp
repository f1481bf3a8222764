// How much of a product is bought without any step to it.
#include <algorithm>
#include <array>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "question/offer_steps.hpp"

namespace pear {
namespace {

/// Purchases seen and expected of customers whom no step leads to the product: expected ones in billionths,
/// so that their order does not matter.
struct UnledPurchases {
  std::int64_t seen = 0, expected = 0;
};
constexpr double kUnits = 1e9;

/// Looks at one customer after another. One for each thread.
class UnledCounter {
 public:
  UnledCounter(const OfferBase& base, const std::vector<std::vector<std::uint32_t>>& led_to)
      : base_(base),
        led_to_(led_to),
        products_(base.histories.counts.size()),
        purchases_(base.groups.count * products_),
        marks_(products_, kNever),
        shelf_counts_(base.shelves.count),
        shelf_shares_(base.shelves.count) {}

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    const std::uint32_t group = base_.groups.group_of(customer);
    std::fill(shelf_counts_.begin(), shelf_counts_.end(), 0);
    const auto id = static_cast<std::int32_t>(customer);
    std::uint32_t read = 0;
    walk_cases(history, base_.lookback, base_.lookback.days, [&](const CustomerCase& now) {
      for (; read < now.known; ++read) {
        const std::uint32_t code = history[read].code;
        ++shelf_counts_[base_.shelves.of_product[code]];
        marks_[code] = id;
        for (const std::uint32_t later : led_to_[code]) marks_[later] = id;
      }
      base_.shares.of_shelves(group, shelf_counts_, now.known, shelf_shares_);
      const double items = base_.items.at(customer, now.landmark);
      for (std::uint32_t product = 0; product < products_; ++product) {
        if (marks_[product] == id) continue;  // bought, or led to
        const double chance = chance_of_any(items * shelf_shares_[base_.shelves.of_product[product]] *
                                                base_.shares.of_product(group, product),
                                            base_.items.dispersion());
        purchases_[group * products_ + product].expected += static_cast<std::int64_t>(chance * kUnits);
      }
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry) {
        const std::uint32_t code = history[entry].code;
        if (history[entry].is_first == 0 || marks_[code] == id) continue;
        ++purchases_[group * products_ + code].seen;
      }
    });
  }

  /// By group, then product.
  [[nodiscard]] const std::vector<UnledPurchases>& purchases() const { return purchases_; }

 private:
  const OfferBase& base_;
  const std::vector<std::vector<std::uint32_t>>& led_to_;
  std::size_t products_;
  std::vector<UnledPurchases> purchases_;
  std::vector<std::int32_t> marks_;  ///< by product the last customer who has or is led to it
  std::vector<std::uint32_t> shelf_counts_;
  std::vector<double> shelf_shares_;
};

}  // namespace

std::vector<double> unled_ratios(const OfferBase& base, const std::vector<FoundStep>& steps) {
  constexpr std::size_t kMostPairs = 20'000'000;
  constexpr double kDrawn = 20;
  const std::size_t products = base.histories.counts.size();
  std::vector<std::vector<std::uint32_t>> led_to(products);
  for (const FoundStep& step : steps)
    if (step.earlier != step.later) led_to[step.earlier].push_back(step.later);
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
        sum->expected += counter.purchases()[place].expected;
      }
  const auto drawn = [&](const UnledPurchases& sum, double usual) {
    return (static_cast<double>(sum.seen) / base.lookback.overlap + kDrawn * usual) /
           (static_cast<double>(sum.expected) / kUnits / base.lookback.overlap + kDrawn);
  };
  std::vector<double> ratios;
  for (std::size_t place = 0; place < sums.size(); ++place)
    ratios.push_back(drawn(sums[place], drawn(all[place % products], 1)));
  return ratios;
}

}  // namespace pear
