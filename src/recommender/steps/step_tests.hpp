// Steps from one product to another, found by a test of each pair against the baseline.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "recommender/rates/baseline.hpp"
#include "recommender/recency.hpp"
#include "recommender/steps/pair_screening.hpp"

namespace pear::recommender {

/// A pair of products, or one product twice, of which the later one is bought after the earlier one more
/// often than expected.
struct Step {
  std::uint32_t earlier = 0, later = 0;
  double p = 1;                   ///< of the baseline, for this number of purchases
  double uplift_lower_bound = 0;  ///< see uplift_lower_bound()
};

/// The pairs that are followed by significantly more purchases than the baseline expects: binomial tests over
/// the first 30, 60 and 120 days since the earlier purchase and over all (the most significant, by
/// Bonferroni), with q <= 0.05 (Benjamini and Hochberg) among the pairs of their kind. A purchase within the
/// horizon of several landmarks counts once. Pairs are left out if the lower 95% bound of their uplift is
/// below two in a hundred in every window. In order of the earlier and the later product. On all threads; the
/// same for any number of them.
[[nodiscard]] std::vector<Step> find_steps(const Baseline& base, const ScreenedPairs& screened);

/// What was observed and expected in a recency band or state.
struct BandCount {
  double purchases = 0, exposures = 0, expected = 0;
  void add(const BandCount& other) {
    purchases += other.purchases, exposures += other.exposures, expected += other.expected;
  }
};

/// The observed share of exposures with a purchase minus the expected one, at the lower end of its 95%
/// interval: from the earlier purchase up to the band where that is largest.
[[nodiscard]] double uplift_lower_bound(std::span<const BandCount> bands, double overlap);

/// The first bands, up to `end`, and the probability of this many purchases or more in them.
struct RecencyWindow {
  double p = 1;
  std::size_t end = 0;
};

/// The most significant of the windows; its p value times the number of windows. A purchase or exposure
/// within the horizon of several landmarks counts once. All bands, and 1, if no window has more purchases
/// than expected.
[[nodiscard]] RecencyWindow most_significant_window(std::span<const BandCount> bands, double overlap);

}  // namespace pear::recommender
