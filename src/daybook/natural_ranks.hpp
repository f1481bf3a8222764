// Sorting of many ids at once.
#pragma once

#include <algorithm>
#include <cstdint>
#include <numeric>
#include <vector>

#include <tbb/parallel_sort.h>

#include "base/natural_order.hpp"
#include "base/text_array.hpp"

namespace pear {

/// The positions of the texts, which are distinct, in natural order. O(n log n) comparisons, on all threads.
inline std::vector<std::uint32_t> natural_positions(const TextArray& texts) {
  std::vector<std::uint32_t> positions(texts.size());
  std::iota(positions.begin(), positions.end(), 0U);
  const auto less = [&texts](std::uint32_t a, std::uint32_t b) {
    return natural_compare(texts[a], texts[b]) < 0;
  };
  if (!std::is_sorted(positions.begin(), positions.end(), less))
    tbb::parallel_sort(positions.begin(), positions.end(), less);
  return positions;
}

/// ranks[positions[i]] = i: where each member stands.
inline std::vector<std::uint32_t> inverse(const std::vector<std::uint32_t>& positions) {
  std::vector<std::uint32_t> ranks(positions.size());
  for (std::uint32_t i = 0; i < positions.size(); ++i) ranks[positions[i]] = i;
  return ranks;
}

}  // namespace pear
