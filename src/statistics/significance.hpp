// Whether what was seen could be chance, for one case and for many at once.
#pragma once

#include <cstdint>
#include <vector>

namespace pear::statistics {

/// What is reported as a finding has a q value of no more.
constexpr double kFalseDiscovery = 0.05;

/// The probability of `part` or more of `whole` independent cases where each has the chance `rate`: the
/// upper tail of the binomial distribution, exact, by the incomplete beta function.
[[nodiscard]] double probability_of_at_least(std::uint64_t part, std::uint64_t whole, double rate);

/// The probability that two sets of `a` and `b` of `all` cases share `both` or more where neither has to do
/// with the other: the upper tail of the hypergeometric distribution, which is Fisher's exact test, one-sided
/// (Fisher, Statistical Methods for Research Workers, 1934). Terms are summed from the end that is the
/// smaller; relative error about 1e-7 for a million cases. both <= min(a, b), a and b <= all. O(min(a, b)) at
/// most, and a few terms where the tail is thin.
[[nodiscard]] double probability_of_overlap(std::uint64_t both, std::uint64_t a, std::uint64_t b,
                                            std::uint64_t all);

/// The exact sign test, two-sided: the probability that of a + b cases, which go either way by a coin's toss,
/// the rarer way has so few or fewer (Dixon and Mood, The statistical sign test, JASA 41, 1946). 1 where
/// there is no case.
[[nodiscard]] double sign_test(std::uint64_t a, std::uint64_t b);

/// q values: for each p value the smallest rate of false discoveries at which it is among those found
/// (Benjamini and Hochberg, Controlling the false discovery rate, JRSS B 57, 1995). In the order of the p
/// values. `tests` were made, at least as many as there are p values: those left out have a p value of 1.
/// O(n log n).
[[nodiscard]] std::vector<double> q_values(const std::vector<double>& p_values, std::size_t tests);

}  // namespace pear::statistics
