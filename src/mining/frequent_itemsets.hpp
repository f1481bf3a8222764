// Sets of items that many baskets contain.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include <absl/container/flat_hash_map.h>

#include "analysis/question_input.hpp"
#include "mining/baskets.hpp"

namespace pear::mining {

/// Sets of codes with the number of baskets that contain all of them: singles first, then pairs, and so on;
/// within a size in order of their codes.
class ItemSets {
 public:
  /// `squares`: see squares().
  void add(std::span<const std::uint32_t> codes, std::uint32_t baskets, std::uint64_t squares);
  void append(const ItemSets& other);
  void sort();

  [[nodiscard]] std::size_t size() const { return baskets_.size(); }
  [[nodiscard]] std::span<const std::uint32_t> codes(std::size_t set) const {
    return std::span(codes_).subspan(begins_[set], begins_[set + 1] - begins_[set]);
  }
  [[nodiscard]] std::uint32_t baskets(std::size_t set) const { return baskets_[set]; }
  /// The sum over customers of the square of their baskets that contain the set: divided by baskets(), the
  /// number of baskets that one customer has with it, weighted by baskets (see design_effect). Of sets of two
  /// and more.
  [[nodiscard]] std::uint64_t squares(std::size_t set) const { return squares_[set]; }

 private:
  std::vector<std::uint32_t> codes_;  ///< in order within a set
  std::vector<std::uint32_t> begins_{0};
  std::vector<std::uint32_t> baskets_;
  std::vector<std::uint64_t> squares_;
};

/// Finds a set among others by its codes. Borrows them.
class SetIndex {
 public:
  explicit SetIndex(const ItemSets& sets);
  /// Its position, if it is there; codes in order.
  [[nodiscard]] std::optional<std::size_t> find(std::span<const std::uint32_t> codes) const;

 private:
  absl::flat_hash_map<std::string_view, std::uint32_t> places_;
};

struct MiningBounds {
  std::uint32_t least = 1;          ///< baskets that contain a set
  std::size_t largest = 5;          ///< items in it
  std::size_t at_most = 1'000'000;  ///< sets of two and more
};

/// All sets of up to `largest` items that at least `least` baskets contain; nothing if there are more than
/// `at_most`. Depth first over items from the rarest to the most common: the search carries along the places
/// of a set's baskets, and counts the items after them by delivering each place to these items (occurrence
/// deliver: Uno, Kiyomi and Arimura, LCM ver. 2, FIMI 2004). So the work is proportional to the sets that
/// occur, and no candidate is generated that no basket contains. Measured against intersecting lists of
/// baskets pair by pair (Zaki, Scalable algorithms for association mining, IEEE TKDE 12, 2000): see
/// bench/README.md. Memory: 8 bytes for each item of a basket, and the sets. On all threads; the same for
/// any number of them. `rare_pairs` receives the pairs of frequent items that occur, but in fewer baskets.
[[nodiscard]] std::optional<ItemSets> mine_sets(const Baskets& baskets, const MiningBounds& bounds,
                                                const analysis::Progress& progress = {},
                                                ItemSets* rare_pairs = nullptr);

/// The least support, doubled from `bounds.least`, at which there are at most `at_most` sets.
[[nodiscard]] std::uint32_t support_that_fits(const Baskets& baskets, MiningBounds bounds);

/// The sets that remain: `closed` sets have no larger set in as many baskets, `maximal` ones no larger set at
/// all. Only the given sets are compared, so they must be mined one item larger than those of interest.
enum class OnlySets : std::uint8_t { all, closed, maximal };
[[nodiscard]] std::vector<std::uint8_t> kept_sets(const ItemSets& sets, OnlySets only);

}  // namespace pear::mining
