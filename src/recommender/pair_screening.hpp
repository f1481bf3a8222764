// Pairs of products that have to do with one another, before anything is asked of their time.
#pragma once

#include <array>
#include <cstdint>

#include <absl/container/flat_hash_set.h>

#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// What kind of pair a step is. Kinds are tested each for itself (Sun, Craiu, Paterson and Bull, Stratified
/// false discovery control for large-scale hypothesis testing, Genetic Epidemiology 30, 2006), so that the
/// few that other questions found do not drown among all that are possible.
enum class PairKind : std::uint8_t {
  again,     ///< one and the same product
  next,      ///< more customers only bought the later one after the earlier one than the other way round
  together,  ///< orders hold both more often than by chance
  other
};
constexpr std::size_t kPairKinds = 4;

/// Directions are tested as `sequence` tests them (the sign test, of those who went only one way of all their
/// purchases), orders as `together` does (Fisher's exact test); both with q <= 0.05.
class ScreenedPairs {
 public:
  explicit ScreenedPairs(const mining::Histories& histories);

  [[nodiscard]] PairKind kind(std::uint32_t earlier, std::uint32_t later) const;
  /// How many pairs there are of a kind.
  [[nodiscard]] std::uint64_t pairs(PairKind kind) const { return pairs_[static_cast<std::size_t>(kind)]; }

 private:
  absl::flat_hash_set<std::uint64_t> next_, together_;
  std::array<std::uint64_t, kPairKinds> pairs_{};
};

}  // namespace pear::recommender
