// Tests of significance, for one hypothesis and for many at once.
#pragma once

#include <cstdint>
#include <vector>

namespace pear::statistics {

/// Findings have a q value of at most this.
constexpr double kFalseDiscovery = 0.05;

/// The probability of `part` or more of `whole` independent cases if each has the probability `rate`: the
/// upper tail of the binomial distribution, exact, by the incomplete beta function.
[[nodiscard]] double probability_of_at_least(std::uint64_t part, std::uint64_t whole, double rate);

/// The probability that two sets of `a` and `b` of `all` cases share `both` or more if they are independent:
/// the upper tail of the hypergeometric distribution, which is Fisher's exact test, one-sided (Fisher,
/// Statistical Methods for Research Workers, 1934). Terms are summed from the smaller end; relative error
/// about 1e-7 for a million cases. both <= min(a, b), a and b <= all. O(min(a, b)) at most, and a few terms
/// if the tail is thin.
[[nodiscard]] double probability_of_overlap(std::uint64_t both, std::uint64_t a, std::uint64_t b,
                                            std::uint64_t all);

/// Fisher's exact test whether the share of `a` among `part` of all cases differs from that among all others,
/// two-sided: twice the smaller tail. a of the part and all_a of all cases; a <= part <= all.
[[nodiscard]] double fisher_test(std::uint64_t a, std::uint64_t part, std::uint64_t all_a, std::uint64_t all);

/// What `count` cases are worth if customers contribute several each: dividing counts by the design effect
/// gives the number of independent cases with the same precision (Rao and Scott, A simple method for the
/// analysis of clustered binary data, Biometrics 48, 1992). `squares` is the sum over customers of the square
/// of their cases; so 1 if each customer has at most one.
[[nodiscard]] double design_effect(std::uint64_t count, std::uint64_t squares);

/// The probability of `count` cases or more if `expected` are expected, with this variance of independent
/// cases, and a design effect: the upper tail of the binomial distribution with the mean and variance of the
/// effective numbers, or of Poisson's if the variance is not below the mean. Counts need not be whole.
[[nodiscard]] double probability_of_clustered(double count, double expected, double variance,
                                              double design_effect);

/// The exact sign test, two-sided: the probability that of a + b cases, each equally likely to go either way,
/// the rarer way has this many or fewer (Dixon and Mood, The statistical sign test, JASA 41, 1946). 1 if
/// there is no case.
[[nodiscard]] double sign_test(std::uint64_t a, std::uint64_t b);

/// q values: for each p value the smallest false discovery rate at which it counts as a discovery (Benjamini
/// and Hochberg, Controlling the false discovery rate, JRSS B 57, 1995). In the order of the p values.
/// `tests` is the number of tests, at least the number of p values: those left out have a p value of 1. O(n
/// log n).
[[nodiscard]] std::vector<double> q_values(const std::vector<double>& p_values, std::size_t tests);

}  // namespace pear::statistics
