// Steps from one product to another, found among all pairs and told apart from one another.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "mining/purchase_histories.hpp"
#include "recommender/category_shares.hpp"
#include "recommender/landmarks.hpp"
#include "recommender/order_rate.hpp"
#include "recommender/pair_screening.hpp"
#include "recommender/triggered_products.hpp"

namespace pear::recommender {

/// Customers who were looked at and what they bought within the horizon. A customer is a case at each
/// landmark.
struct Observed {
  std::uint32_t cases = 0, buys = 0;
  std::uint32_t customers = 0;  ///< different ones among the cases

  void add(const Observed& other) { cases += other.cases, buys += other.buys, customers += other.customers; }
  [[nodiscard]] double rate() const { return cases == 0 ? 0 : static_cast<double>(buys) / cases; }
};

/// What is known of customers before any step: what they buy anyway.
struct Baseline {
  const mining::Histories& histories;
  const Landmarks& lookback;
  const analysis::CustomerGroups& groups;
  const Categories& shelves;
  const OrderRate& items;
  const CategoryShares& shares;
};

/// Customers who stood alike to the earlier product, and had not bought the later one yet (or who may buy the
/// same again).
struct FittedCell {
  std::uint8_t standing = 0;
  Observed seen;
  /// What is so of the customers of each group.
  struct OfGroup {
    Observed seen;
    double excess = 0;  ///< of those who would not have bought it without this step, the share that does
  };
  std::vector<OfGroup> groups;
};

struct Step {
  std::uint32_t earlier = 0, later = 0;
  double p = 1;                   ///< of so many purchases by chance
  double surely_more = 0;         ///< see surely_more
  std::vector<FittedCell> cells;  ///< of refine_steps
};

/// Pairs that are followed by so many more purchases than expected that it is no chance: binomial tests over
/// the first 30, 60 and 120 days since the earlier purchase and over all (the surest, by Bonferroni), with q
/// <= 0.05 (Benjamini and Hochberg) among the pairs of their kind. Purchases that several landmarks see count
/// once. Left out are pairs that surely add less than two in a hundred over any time. In order of the earlier
/// and the later one. On all threads; the same for any number of them.
[[nodiscard]] std::vector<Step> find_steps(const Baseline& base, const ScreenedPairs& links);

/// What the steps to others lead to.
[[nodiscard]] TriggeredProducts triggered_by(const std::vector<Step>& steps, std::size_t products);

/// By group and product, purchases of customers whom no step leads to it, by those expected of them, each
/// drawn to the ratio of all as if 20 more had been bought like that: what is often bought after something
/// else is bought less without it. Of customers and products up to 20 million pairs are looked at, evenly
/// spread. On all threads.
[[nodiscard]] std::vector<double> untriggered_ratios(const Baseline& base, const TriggeredProducts& led_to);

/// Works out what each step adds. The steps to one product are taken one after another, first the one after
/// which surely most buy it, and of what follows a step only that counts which those before it do not
/// explain: who bought A and then B goes on to C because of B. This with up to 100,000 customers, evenly
/// spread. Then each is worked out anew with all customers, beside what the others add (backfitting: Buja,
/// Hastie and Tibshirani, Linear smoothers and additive models, Annals of Statistics 17, 1989). Eight steps
/// to a product at most; others get no cells. What a step adds is told by standing and group, and what was
/// seen is drawn to what the standing before it says: as if 5 purchases more had been seen like that within
/// the surest stretch, and half a one beyond it, where less follows; and what a group does to what all do,
/// by 8. That is the mean of a gamma distribution of the ratio of both (DuMouchel, Bayesian data mining in
/// large frequency tables, American Statistician 53, 1999). On all threads; the same for any number of them.
void fit_uplifts(const Baseline& base, std::vector<Step>& steps);

/// What was seen and expected of a band or standing.
struct BandCount {
  double buys = 0, cases = 0, expected = 0;
};

/// How many more of a case buy than would anyway, from the earlier purchase up to the band where that is
/// most, at the lower end of the 95% interval of their share.
[[nodiscard]] double uplift_lower_bound(std::span<const BandCount> bands, double overlap);

/// The first bands, up to `end`, and the chance of so many purchases or more in them.
struct RecencyWindow {
  double p = 1;
  std::size_t end = 0;
};

/// The one of the stretches that is the surest; its chance times the number of stretches. Purchases and cases
/// that several landmarks see count once. All bands, and 1, where none is seen more than expected.
[[nodiscard]] RecencyWindow most_significant_window(std::span<const BandCount> bands, double overlap);

/// Chances are added up as whole numbers, so that the order in which customers are looked at does not matter.
class ProbabilitySum {
 public:
  void add(double chance) { units_ += static_cast<std::int64_t>(chance * kUnits); }
  void add(const ProbabilitySum& other) { units_ += other.units_; }
  [[nodiscard]] double value() const { return static_cast<double>(units_) / kUnits; }

 private:
  static constexpr double kUnits = 1e9;
  std::int64_t units_ = 0;
};

}  // namespace pear::recommender
