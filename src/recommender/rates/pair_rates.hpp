// How often customers who bought one product buy another one that they have not bought yet.
#pragma once

#include <cstdint>
#include <utility>
#include <vector>

#include "recommender/landmarks.hpp"
#include "recommender/steps/step_exposure.hpp"

namespace pear::recommender {

/// Exposures of customers who had bought an earlier product at any time, but not the later one.
class PairRates {
 public:
  using Pair = std::pair<std::uint32_t, std::uint32_t>;  ///< the earlier and the later product

  PairRates() = default;
  /// Counts these pairs, in any order and repeated or not. O(customers x pairs whose earlier product they
  /// bought) on all threads; the same for any number of them.
  [[nodiscard]] static PairRates count(const mining::Histories& histories, const Landmarks& landmarks,
                                       std::vector<Pair> pairs);

  /// Of a pair that was counted.
  [[nodiscard]] const Observed& of(std::uint32_t earlier, std::uint32_t later) const;

 private:
  std::vector<Pair> pairs_;  ///< sorted
  std::vector<Observed> observed_;
};

}  // namespace pear::recommender
