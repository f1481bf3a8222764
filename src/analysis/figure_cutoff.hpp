// Long tails in figures.
#pragma once

#include <cstdint>
#include <vector>

namespace pear::analysis {

/// How many of the first counts are shown, and whether the remaining ones are combined into one.
struct FigureCutoff {
  std::size_t shown = 0;
  bool gathers = false;
};

/// Enough to include 98% of the total, but no more than `most`, counting the combined one.
[[nodiscard]] inline FigureCutoff cutoff_for(const std::vector<std::uint64_t>& counts, std::size_t most) {
  std::uint64_t all = 0;
  for (const std::uint64_t count : counts) all += count;
  constexpr double kEnough = 0.98;
  std::uint64_t so_far = 0;
  std::size_t last = 0;
  while (last < counts.size() && last + 1 < most &&
         static_cast<double>(so_far) < kEnough * static_cast<double>(all))
    so_far += counts[last++];
  return {last, last < counts.size()};
}

}  // namespace pear::analysis
