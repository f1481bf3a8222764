// What is known of a customer at a landmark, and what the baseline expects of them.
#pragma once

#include <algorithm>
#include <cstdint>
#include <vector>

#include "recommender/probability_sum.hpp"
#include "recommender/rates/baseline.hpp"
#include "recommender/recency.hpp"

namespace pear::recommender {

/// One customer after another: take() for each entry of the history, expect() at landmarks, clear() at the
/// end.
class KnownCustomer {
 public:
  explicit KnownCustomer(const Baseline& base)
      : last_days(base.products(), kNever),
        category_items(base.categories.count),
        base_(base),
        category_counts_(base.categories.count) {}

  /// Whether it is the first purchase of its product.
  bool take(const mining::HistoryEntry& entry) {
    ++category_counts_[base_.categories.of_product[entry.code]];
    const bool is_new = last_days[entry.code] == kNever;
    if (is_new) had.push_back(entry.code);
    last_days[entry.code] = entry.day;
    return is_new;
  }

  /// Of each category, and of each product that the customer had before.
  void expect(std::uint32_t customer, const CustomerState& now) {
    const std::uint32_t group = base_.groups.group_of(customer);
    const double items = base_.rate.at(customer, now.landmark);
    base_.shares.of_categories(group, category_counts_, now.known, category_items);
    for (double& expected : category_items) expected *= items;
    had_probabilities.clear();
    for (const std::uint32_t product : had)
      had_probabilities.emplace_back().add(
          base_.probability(category_items[base_.categories.of_product[product]], group, product));
  }

  void clear() {
    for (const std::uint32_t product : had) last_days[product] = kNever;
    had.clear();
    std::fill(category_counts_.begin(), category_counts_.end(), 0);
  }

  std::vector<std::int32_t> last_days;  ///< by product
  std::vector<std::uint32_t> had;       ///< what the customer has bought
  // At the last landmark:
  std::vector<double> category_items;             ///< expected, by category
  std::vector<ProbabilitySum> had_probabilities;  ///< by place in had

 private:
  const Baseline& base_;
  std::vector<std::uint32_t> category_counts_;
};

/// Items of a category expected of the exposures of a group, and their squares, added as whole numbers.
struct CategorySum {
  std::int64_t first = 0, second = 0;
  static constexpr double kFirst = 1e9, kSecond = 1e6;

  void add(double expected) {
    first += static_cast<std::int64_t>(expected * kFirst);
    second += static_cast<std::int64_t>(expected * expected * kSecond);
  }
  void add(const CategorySum& other) { first += other.first, second += other.second; }
  [[nodiscard]] double items() const { return static_cast<double>(first) / kFirst; }
  [[nodiscard]] double squares() const { return static_cast<double>(second) / kSecond; }
};

/// The sum of the probabilities of a product over all exposures, whose sums are by group and category.
/// Exposures of one group and category are treated as equal, with the mean that follows from their squares.
[[nodiscard]] inline double expected_purchases(const Baseline& base, const CategorySum* sums,
                                               std::uint32_t product) {
  constexpr double kTiny = 1e-9;  // replaces an expectation of 0, which is a divisor
  double all = 0;
  for (std::uint32_t group = 0; group < base.groups.count; ++group) {
    const CategorySum& sum = sums[group * base.categories.count + base.categories.of_product[product]];
    if (sum.first <= 0) continue;
    const double share = base.shares.of_product(group, product);
    const double typical = std::max(sum.squares() / sum.items() * share, kTiny);
    all += sum.items() * share / typical * probability_of_any(typical, base.rate.dispersion());
  }
  return all;
}

}  // namespace pear::recommender
