// How often baskets would contain items together if the items were put into them at random.
#pragma once

#include <cstdint>
#include <span>
#include <string_view>
#include <vector>

#include "base/date.hpp"
#include "mining/baskets.hpp"

namespace pear::mining {

/// One period of the null model: baskets of different sizes, items of different weights. The probability of a
/// basket of k items is proportional to the product of their weights. So sizes are kept exactly, and weights
/// are fitted so that the expected number of baskets of each item is the observed one.
///
/// Sizes up to 12, and up to a third of the number of items, use elementary symmetric functions e_k of the
/// weights, which give exact probabilities: of the items S with product w in a basket of k, w e_{k-s}(others)
/// / e_k(all). For larger sizes, items are included independently, with a correction for the fixed size.
class PeriodModel {
 public:
  /// `counts`: by item its baskets, all above 0; `sizes`: by size the number of baskets.
  PeriodModel(const std::vector<std::uint32_t>& counts, const std::vector<double>& sizes);

  /// The expected number of baskets that contain all of these items, given as positions in `counts`.
  [[nodiscard]] double expected(std::span<const std::uint32_t> items) const;

 private:
  /// Items with the same number of baskets have the same weight.
  struct Group {
    double count = 0, items = 0, weight = 0;
    bool is_dominant = false;  ///< in most baskets: see choose_dominant()
  };
  /// A size that is not treated exactly.
  struct LargeSize {
    double size = 0, baskets = 0;
    double tilt = 0;   ///< probability of an item = weight x tilt / (1 + weight x tilt); they add up to size
    double total = 0;  ///< of the correction: see correction()

    [[nodiscard]] double probability(double weight) const { return weight * tilt / (1 + weight * tilt); }
    [[nodiscard]] double correction(double probability) const;
  };

  void group(const std::vector<std::uint32_t>& counts);
  void set_up_sizes(const std::vector<double>& sizes);
  /// One step of the fit: the largest relative difference between fitted and observed counts.
  double improve();
  void rescale();
  void compute();
  void choose_dominant();
  void solve(LargeSize& large) const;
  [[nodiscard]] double exact(std::span<const std::uint32_t> groups) const;
  [[nodiscard]] double by_division(std::span<const std::uint32_t> groups) const;
  [[nodiscard]] double approximate(std::span<const std::uint32_t> groups) const;
  [[nodiscard]] std::vector<double> tails_without(std::span<const std::uint32_t> groups) const;

  std::vector<Group> groups_;
  std::vector<std::uint32_t> group_of_;  ///< by item
  std::vector<double> exact_sizes_;      ///< by size its baskets
  std::vector<LargeSize> large_;
  std::vector<double> mass_;     ///< by size k: baskets / e_k of all weights
  std::vector<double> rest_;     ///< e_0, e_1, ... of the items that are not dominant
  std::vector<double> tails_;    ///< by t: the sum over k of mass_k e_{k-t}(dominant items)
  std::vector<double> moments_;  ///< by t: the sum over k of mass_k e_{k-t}(all items)
};

/// How long the periods of a null model are.
struct ModelPeriod {
  std::string_view name;    ///< "month", "quarter", "year"; empty if all baskets are in one period
  std::int32_t months = 0;  ///< in one of them; 0 if all baskets are in one period

  /// The number of periods before that of a month; 0 for one period.
  [[nodiscard]] std::int32_t of(Month month) const { return months == 0 ? 0 : month.index / months; }
};

/// The shortest periods in which there are enough baskets to distinguish `items` of them.
[[nodiscard]] ModelPeriod choose_period(Month first, Month last, std::size_t baskets, std::size_t items);

/// What the null model keeps of the baskets of one period.
struct BasketMargins {
  std::vector<std::uint32_t> counts;  ///< by code, how many baskets contain it; 0 for none
  std::vector<double> sizes;          ///< by size, the number of baskets
};

/// The null model of all baskets: within each period (a month, if there are enough baskets), items are put
/// into baskets at random. Each item keeps its number of baskets of that period, and each basket its size: a
/// Rasch model, conditional on sizes, which has the largest entropy with these margins (Rasch, Probabilistic
/// models for some intelligence and attainment tests, 1960; Chen, Dempster and Liu, Weighted finite
/// population sampling to maximize entropy, Biometrika 81, 1994). So popular items, large baskets, seasons,
/// and items that are launched or withdrawn do not look like association. Assumes nothing about customers:
/// see design_effect in statistics/significance.hpp.
///
/// Fitting costs O(items of a period x largest size) for each of about 10 rounds, on all threads; the same
/// result for any number of them. Memory: periods x items.
class BasketNullModel {
 public:
  BasketNullModel(const Baskets& baskets, bool by_period);
  /// From the margins of each period.
  BasketNullModel(std::vector<BasketMargins> margins, ModelPeriod period);

  /// The expected number of baskets with all of these items, as codes. O(periods x largest size).
  [[nodiscard]] double expected(std::span<const std::uint32_t> codes) const;
  /// "month", "quarter", "year", or nothing if the data is one period.
  [[nodiscard]] std::string_view period() const { return period_.name; }

 private:
  void fit(std::vector<BasketMargins> margins);

  ModelPeriod period_;
  std::vector<PeriodModel> periods_;
  std::vector<std::vector<std::uint32_t>> places_;  ///< by period and code its position, or kNowhere
};

}  // namespace pear::mining
