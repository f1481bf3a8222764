// Screens pairs of products for any relation, before the timing of purchases is used.
#pragma once

#include <array>
#include <cstdint>
#include <numeric>

#include <absl/container/flat_hash_set.h>

#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// The kind of a pair. Each kind is tested separately (Sun, Craiu, Paterson and Bull, Stratified false
/// discovery control for large-scale hypothesis testing, Genetic Epidemiology 30, 2006), so that the few
/// pairs with other evidence are not lost among all possible pairs.
enum class PairKind : std::uint8_t {
  again,     ///< one and the same product
  next,      ///< more customers bought only the later one after the earlier one than the other way round
  together,  ///< orders contain both more often than expected by chance
  other
};
constexpr std::size_t kPairKinds = 4;

/// Directions are tested by the sign test, over customers who went only one way in all their purchases;
/// orders by Fisher's exact test. Both with q <= 0.05.
class ScreenedPairs {
 public:
  /// O(pairs of entries of each customer) on all threads, in blocks of products.
  [[nodiscard]] static ScreenedPairs screen(const mining::Histories& histories);

  [[nodiscard]] PairKind kind(std::uint32_t earlier, std::uint32_t later) const;
  /// How many pairs there are of a kind, and of all kinds.
  [[nodiscard]] std::uint64_t pairs(PairKind kind) const { return pairs_[static_cast<std::size_t>(kind)]; }
  [[nodiscard]] std::uint64_t all_pairs() const {
    return std::accumulate(pairs_.begin(), pairs_.end(), std::uint64_t{0});
  }

 private:
  absl::flat_hash_set<std::uint64_t> next_, together_;
  std::array<std::uint64_t, kPairKinds> pairs_{};
};

}  // namespace pear::recommender
