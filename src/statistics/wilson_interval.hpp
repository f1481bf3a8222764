// The confidence interval of an observed share.
#pragma once

#include <cstdint>

namespace pear::statistics {

struct Interval {
  double low = 0, high = 0;
};

/// The 95% score interval of a share (Wilson, Probable inference, the law of succession, and statistical
/// inference, JASA 22, 1927), which stays within 0 and 1 and is valid for small numbers too. `part` of
/// `whole` cases; NaN for both ends if there is no case.
[[nodiscard]] Interval wilson_interval(std::uint64_t part, std::uint64_t whole);

}  // namespace pear::statistics
