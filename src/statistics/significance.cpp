#include "statistics/significance.hpp"

#include <algorithm>
#include <boost/math/special_functions/beta.hpp>
#include <boost/math/special_functions/gamma.hpp>
#include <cmath>
#include <numeric>

namespace pear::statistics {

double probability_of_at_least(std::uint64_t part, std::uint64_t whole, double rate) {
  if (part == 0) return 1;
  if (part > whole || rate <= 0) return 0;
  if (rate >= 1) return 1;
  return boost::math::ibeta(static_cast<double>(part), static_cast<double>(whole - part + 1), rate);
}

namespace {

double log_factorial(std::uint64_t n) { return boost::math::lgamma(static_cast<double>(n) + 1); }

/// The logarithm of one probability of the hypergeometric distribution.
double log_overlap(std::uint64_t both, std::uint64_t a, std::uint64_t b, std::uint64_t all) {
  return log_factorial(a) + log_factorial(b) + log_factorial(all - a) + log_factorial(all - b) -
         log_factorial(all) - log_factorial(both) - log_factorial(a - both) - log_factorial(b - both) -
         log_factorial(all + both - a - b);
}

}  // namespace

double probability_of_overlap(std::uint64_t both, std::uint64_t a, std::uint64_t b, std::uint64_t all) {
  const std::uint64_t least = a + b > all ? a + b - all : 0, most = std::min(a, b);
  if (both <= least) return 1;
  const auto x = [](std::uint64_t n) { return static_cast<double>(n); };
  constexpr double kNegligible = 1e-17;
  const bool is_above = x(both) * x(all) > x(a) * x(b);
  double term = 1, sum = is_above ? 1 : 0;  // as multiples of the term for `both`
  if (is_above) {
    for (std::uint64_t k = both; k < most && term > sum * kNegligible; ++k)
      sum += term *= x(a - k) * x(b - k) / (x(k + 1) * x(all + k + 1 - a - b));
  } else {  // the complement is the smaller part
    for (std::uint64_t k = both; k > least && term > sum * kNegligible; --k)
      sum += term *= x(k) * x(all + k - a - b) / (x(a - k + 1) * x(b - k + 1));
  }
  const double part = std::exp(log_overlap(both, a, b, all)) * sum;
  return std::clamp(is_above ? part : 1 - part, 0.0, 1.0);
}

double design_effect(std::uint64_t count, std::uint64_t squares) {
  return count == 0 ? 1 : static_cast<double>(squares) / static_cast<double>(count);
}

double probability_of_clustered(double count, double expected, double variance, double design_effect) {
  if (count <= 0) return 1;
  if (expected <= 0) return 0;
  const double x = count / design_effect, mean = expected / design_effect;
  const double rate = 1 - variance / expected;
  constexpr double kAlmostPoisson = 1e-9;
  if (rate < kAlmostPoisson) return boost::math::gamma_p(x, mean);
  const double cases = mean / rate;  // of the binomial distribution
  return x >= cases + 1 ? 0 : boost::math::ibeta(x, cases - x + 1, std::min(rate, 1.0));
}

double fisher_test(std::uint64_t a, std::uint64_t part, std::uint64_t all_a, std::uint64_t all) {
  return std::min(1.0, 2 * std::min(probability_of_overlap(a, part, all_a, all),
                                    probability_of_overlap(part - a, part, all - all_a, all)));
}

double sign_test(std::uint64_t a, std::uint64_t b) {
  return std::min(1.0, 2 * probability_of_at_least(std::max(a, b), a + b, 0.5));
}

std::vector<double> q_values(const std::vector<double>& p_values, std::size_t tests) {
  std::vector<std::size_t> order(p_values.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return p_values[a] < p_values[b]; });
  std::vector<double> values(p_values.size());
  double smallest = 1;
  for (std::size_t rank = order.size(); rank-- > 0;) {
    const std::size_t at = order[rank];
    smallest = std::min(smallest, p_values[at] * static_cast<double>(tests) / static_cast<double>(rank + 1));
    values[at] = smallest;
  }
  return values;
}

}  // namespace pear::statistics
