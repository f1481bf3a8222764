// The directions of pairs, by their definitions, customer by customer.
#pragma once

#include <map>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "base/natural_order.hpp"

namespace pear::test {

using Step = std::set<std::string, NaturalLess>;

/// An order as it counts: what was bought on which day.
struct Visit {
  int day = 0;
  Step items;
};
using History = std::vector<Visit>;

/// Customers whose first purchase of one item is on an earlier day than that of another, and how many of them
/// are expected to be.
struct SlowDirection {
  int customers = 0;
  double expected = 0;
};

/// By earlier and later item.
[[nodiscard]] std::map<std::pair<std::string, std::string>, SlowDirection> slow_directions(
    const std::vector<History>& histories);

}  // namespace pear::test
