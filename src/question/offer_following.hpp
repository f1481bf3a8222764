// Customers followed along steps: what they buy of what a step leads to, and what would be bought without it.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "question/offer_lookback.hpp"
#include "question/offer_steps.hpp"

namespace pear {

/// By standing, of those who would not have bought without a step the share that does.
using Excess = std::array<double, kStandings>;

/// A step that is looked at, and the others to the same product that explain a part of what follows it.
struct Followed {
  struct Other {
    std::uint32_t earlier = 0;
    const std::vector<Excess>* excess = nullptr;  ///< by group
  };
  std::uint32_t earlier = 0, later = 0;
  std::vector<Other> others;
};

/// What was seen and expected of customers of one group and standing.
struct StandingCount {
  Seen seen;
  ChanceSum expected;

  void add(const StandingCount& other) { seen.add(other.seen), expected.add(other.expected); }
};

/// By step, then group, then standing. Looks at one customer of `apart`, evenly spread; O(their entries) for
/// each landmark and step, on all threads, the same for any number of them.
[[nodiscard]] std::vector<StandingCount> follow(const OfferBase& base, const std::vector<Followed>& steps,
                                                std::uint32_t apart);

}  // namespace pear
