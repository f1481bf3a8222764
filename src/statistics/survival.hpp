// The time until an event, if many cases were not followed to their end.
#pragma once

#include <cstdint>
#include <vector>

namespace pear::statistics {

/// One day of a curve.
struct SurvivalDay {
  std::uint64_t at_risk = 0;  ///< cases followed to this day at least, without the event before it
  std::uint64_t events = 0;   ///< of these, how many had the event on this day
  double share = 0;           ///< the share of all cases that had the event by the end of this day
  double low = 0, high = 0;   ///< the 95% interval of the share
  bool is_known = true;  ///< false if nobody was followed this long: the share is that of the last day known
};

/// The Kaplan-Meier estimate (Nonparametric estimation from incomplete observations, JASA 53, 1958), as the
/// share that had the event. events[d] is how many of `all` cases had the event on day d, and ends[d] for how
/// many others observation ended with day d; both arrays have the same length, and cases in neither were
/// followed beyond the last day. Intervals by Greenwood's variance of the logarithm of the hazard
/// (Kalbfleisch and Prentice, The Statistical Analysis of Failure Time Data, 1980), which keeps them within 0
/// and 1; they are the share itself if the share is 0 or 1. O(days).
[[nodiscard]] std::vector<SurvivalDay> kaplan_meier(const std::vector<std::uint32_t>& events,
                                                    const std::vector<std::uint32_t>& ends,
                                                    std::uint64_t all);

}  // namespace pear::statistics
