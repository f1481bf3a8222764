#include "mining/association.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <tbb/parallel_for.h>

#include "statistics/significance.hpp"

namespace pear::mining {

std::uint64_t combinations(std::uint64_t items, std::uint64_t size) {
  constexpr double kMost = 9.2e18;
  double product = 1;
  if (size > items) return 0;
  for (std::uint64_t i = 0; i < size; ++i)
    product = product * static_cast<double>(items - i) / static_cast<double>(i + 1);
  return static_cast<std::uint64_t>(std::llround(std::min(product, kMost)));
}

Association AssociationTests::of_rule(const Rule& rule) {
  Association result;
  result.expected = rule.given_baskets * rule.expected / rule.expected_given;
  // At most as many as the rarer side has baskets. Leaving out the other side's factor of the variance makes
  // the tail wider, never thinner (Hoeffding, Probability inequalities for sums of bounded random variables,
  // JASA 58, 1963, section 6).
  const double most = std::min(rule.given_baskets, rule.also_baskets);
  const double variance = result.expected * std::max(0.0, 1 - result.expected / most);
  result.p = statistics::probability_of_clustered(rule.baskets, result.expected, variance,
                                                  statistics::design_effect(rule.baskets, rule.squares));
  return result;
}

Association AssociationTests::of_set(std::span<const std::uint32_t> codes, std::uint32_t baskets,
                                     std::uint64_t squares) const {
  const double expected = model_.expected(codes);
  if (codes.size() == 2) {
    const std::uint32_t a = counts_[codes[0]], b = counts_[codes[1]];
    return of_rule({baskets, a, b, squares, expected, static_cast<double>(a)});
  }
  return {expected,
          statistics::probability_of_clustered(baskets, expected, expected,
                                               statistics::design_effect(baskets, squares)),
          1};
}

std::vector<Association> test_sets(const AssociationTests& tests, const ItemSets& sets) {
  std::vector<Association> tested(sets.size());
  tbb::parallel_for(std::size_t{0}, sets.size(), [&](std::size_t set) {
    if (sets.codes(set).size() < 2)
      tested[set].expected = sets.baskets(set);
    else
      tested[set] = tests.of_set(sets.codes(set), sets.baskets(set), sets.squares(set));
  });
  return tested;
}

void control_false_discoveries(std::span<Association* const> associations, std::uint64_t tests) {
  std::vector<double> p_values;
  for (const Association* each : associations) p_values.push_back(each->p);
  const std::vector<double> q =
      statistics::q_values(p_values, std::max<std::uint64_t>(tests, p_values.size()));
  for (std::size_t i = 0; i < q.size(); ++i) associations[i]->q = q[i];
}

}  // namespace pear::mining
