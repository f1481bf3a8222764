// A table fitted to the sums observed along each of its factors.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace pear::statistics {

/// A cell of a table of `N` factors: its level of each factor, the sum observed in it, and the sum expected
/// without the factors.
template <std::size_t N>
struct RakedCell {
  std::array<std::size_t, N> levels{};
  double observed = 0, expected = 0;
};

/// A multiplier for each level of each factor.
template <std::size_t N>
class RakedFactors {
 public:
  explicit RakedFactors(const std::array<std::size_t, N>& levels) {
    for (std::size_t factor = 0; factor < N; ++factor) of_level_[factor].assign(levels[factor], 1);
  }
  [[nodiscard]] std::vector<double>& of_level(std::size_t factor) { return of_level_[factor]; }
  /// The product of the multipliers of these levels.
  [[nodiscard]] double at(const std::array<std::size_t, N>& levels) const {
    double product = 1;
    for (std::size_t factor = 0; factor < N; ++factor) product *= of_level_[factor][levels[factor]];
    return product;
  }

 private:
  std::array<std::vector<double>, N> of_level_;
};

/// A log-linear model fitted by raking, or iterative proportional fitting (Deming and Stephan, On a least
/// squares adjustment of a sampled frequency table, Annals of Mathematical Statistics 11, 1940): multipliers
/// with which the expected sums of each level equal the observed ones, each shrunk towards 1 with a prior
/// weight in the unit of the sums. O(cells x N) a round.
template <std::size_t N>
[[nodiscard]] RakedFactors<N> rake(std::span<const RakedCell<N>> cells,
                                   const std::array<std::size_t, N>& levels, double prior_weight) {
  constexpr int kRounds = 20;  // factors that overlap little converge within a few rounds
  RakedFactors<N> factors(levels);
  for (int round = 0; round < kRounds; ++round) {
    for (std::size_t factor = 0; factor < N; ++factor) {
      std::vector<double>& own = factors.of_level(factor);
      std::vector<double> observed(own.size(), prior_weight), expected = observed;
      for (const RakedCell<N>& cell : cells) {
        const std::size_t level = cell.levels[factor];
        observed[level] += cell.observed;
        expected[level] += cell.expected * factors.at(cell.levels) / own[level];
      }
      for (std::size_t level = 0; level < own.size(); ++level) own[level] = observed[level] / expected[level];
    }
  }
  return factors;
}

}  // namespace pear::statistics
