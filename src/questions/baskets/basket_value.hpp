// What baskets are made of, what they bring, and what each product has to do with it.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/decimal.hpp"
#include "mining/baskets.hpp"

namespace pear::baskets {

/// Money of purchases. Cost and margin are of lines whose cost is known.
struct BasketSum {
  std::uint64_t baskets = 0;
  DecimalSum sales, cost, margin;

  void add(const BasketSum& other);
};

/// Baskets of the same different items.
struct Composition {
  std::vector<std::uint32_t> codes;  ///< in order
  BasketSum sum;
};

/// Of one item: the baskets that hold it.
struct PulledBaskets {
  BasketSum own;            ///< what it brings itself; `baskets` are all that hold it
  std::uint64_t alone = 0;  ///< of these, those with nothing else
  DecimalSum whole;         ///< of all these baskets: margin, or sales without costs
  DecimalSum whole_sales;
  DecimalSum own_value;                              ///< of the item in them, likewise
  std::optional<Decimal> pull, pull_low, pull_high;  ///< see basket_facts
};

struct BasketValues {
  bool has_costs = false;
  std::uint64_t baskets = 0;
  std::uint64_t lines_without_cost = 0;
  std::vector<std::uint64_t> by_size;  ///< how many baskets hold so many items
  std::vector<BasketSum> sums_by_size;
  std::vector<Composition> compositions;  ///< the commonest first; of equals the smaller, then by codes
  std::vector<PulledBaskets> items;       ///< by code
};

/// Gathers the facts. A basket's value is its margin, or its sales where there are no costs. The **pull** of
/// an item is the mean, over the baskets that hold it, of the value of the rest of the basket less the mean
/// value of baskets without the item that hold as many items as the rest (1, 2, 3, 4, 5 to 6, 7 and more) in
/// the same month; where there are none of that month, of any month; where there are none either, the basket
/// is left out. Where it stands alone the difference is 0. Above 0: what is bought with it earns more than
/// baskets like that do. Its 95% interval is by bootstrap over up to 200 groups of customers, 1,000 times
/// (Efron, Bootstrap methods, Annals of Statistics 7, 1979; percentiles), with the means of other baskets
/// held fixed. The same for any number of threads. O(lines) twice.
[[nodiscard]] BasketValues basket_values(const daybook::Daybook& daybook, const expression::GroupKey& key,
                                         mining::BasketRule rule);

}  // namespace pear::baskets
