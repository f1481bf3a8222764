#include "statistics/evidence.hpp"

#include <algorithm>
#include <boost/math/special_functions/beta.hpp>
#include <numeric>

namespace pear {

double chance_of_at_least(std::uint64_t part, std::uint64_t whole, double rate) {
  if (part == 0) return 1;
  if (part > whole || rate <= 0) return 0;
  if (rate >= 1) return 1;
  return boost::math::ibeta(static_cast<double>(part), static_cast<double>(whole - part + 1), rate);
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

}  // namespace pear
