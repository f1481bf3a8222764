// How long until something happens, where many cases were not followed to their end.
#pragma once

#include <cstdint>
#include <vector>

namespace pear::statistics {

/// One day of a curve.
struct SurvivalDay {
  std::uint64_t at_risk = 0;  ///< cases followed to this day at least, to which it had not happened before
  std::uint64_t events = 0;   ///< of these, to how many it happened on this day
  double share = 0;           ///< to which share of all cases it has happened by the end of this day
  double low = 0, high = 0;   ///< the 95% interval of the share
  bool is_known = true;  ///< false where nobody was followed so long: the share is that of the last day known
};

/// The Kaplan-Meier estimate (Nonparametric estimation from incomplete observations, JASA 53, 1958), given as
/// the share to which it has happened. events[d] is to how many of `all` cases it happened on day d, and
/// ends[d] for how many others observation ended with day d; both arrays are of the same length, and cases
/// that they do not tell of were followed beyond their last day. Intervals by Greenwood's variance of the
/// logarithm of the hazard (Kalbfleisch and Prentice, The Statistical Analysis of Failure Time Data, 1980),
/// which keeps them within 0 and 1; they are the share itself where nothing or everything has happened.
/// O(days).
[[nodiscard]] std::vector<SurvivalDay> kaplan_meier(const std::vector<std::uint32_t>& events,
                                                    const std::vector<std::uint32_t>& ends,
                                                    std::uint64_t all);

}  // namespace pear::statistics
