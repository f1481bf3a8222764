// The compositions of baskets, their value, and the pull of each product.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/decimal.hpp"
#include "mining/baskets.hpp"
#include "questions/baskets/pull.hpp"

namespace pear::baskets {

/// Money of purchases. Cost and margin are of lines with a known cost.
struct BasketSum {
  std::uint64_t baskets = 0;
  DecimalSum sales, cost, margin;

  /// margin / sales of lines with a known cost; NaN without any.
  [[nodiscard]] double margin_rate() const;

  void add(const BasketSum& other);
};

/// Baskets of the same distinct items.
struct Composition {
  std::vector<std::uint32_t> codes;  ///< in order
  BasketSum sum;
};

/// Of one item: the baskets that contain it.
struct PulledBaskets {
  BasketSum own;                  ///< the item itself; `baskets` are all that contain it
  std::uint64_t single_item = 0;  ///< of these, those with nothing else
  DecimalSum whole;               ///< of all these baskets: margin, or sales without costs
  DecimalSum whole_known_sales;   ///< of their lines with a known cost
  DecimalSum own_value;           ///< of the item in them, likewise
  std::optional<Pull> pull;       ///< see find_pulls()
};

struct BasketValues {
  bool has_costs = false;
  bool has_pulls = true;  ///< whether they were looked for
  std::uint64_t baskets = 0;
  std::uint64_t lines_without_cost = 0;
  std::vector<std::uint64_t> by_size;  ///< how many baskets contain this many items
  std::vector<BasketSum> sums_by_size;
  std::vector<Composition>
      compositions;                  ///< the most frequent first; of equal ones the smaller, then by codes
  std::vector<PulledBaskets> items;  ///< by code
};

/// Sets the compositions, sorted, and what follows from them: baskets and sums, also by size.
void set_compositions(std::vector<Composition> compositions, BasketValues& values);

/// Collects the facts. A basket's value is its margin, or its sales if there are no costs. The same for any
/// number of threads. O(lines).
[[nodiscard]] BasketValues basket_values(const daybook::Daybook& daybook, const expression::GroupKey& key,
                                         mining::BasketRule rule);

}  // namespace pear::baskets
