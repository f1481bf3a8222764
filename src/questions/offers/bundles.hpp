// Bundles: sets of products to sell or display together.
#pragma once

#include <cstdint>
#include <vector>

#include "questions/offers/counts.hpp"
#include "result/table.hpp"

namespace pear::offers {

struct Bundle {
  std::vector<std::uint32_t> products;
  std::uint32_t baskets = 0;  ///< orders that contain all
  double lift = 0, q = 1;
  std::uint64_t reached = 0;            ///< customers for whom an offer completes the set
  std::int64_t amount = 0, margin = 0;  ///< the value of its products in an order, units
  double beyond = 0;                    ///< baskets beyond those expected by chance
};

/// Of two or three products, each of which is associated with the others (the test of together, of the
/// weakest association; q <= 0.05), the most valuable ones first. O(baskets) and the pairs that occur, on all
/// threads.
[[nodiscard]] std::vector<Bundle> find_bundles(const Counts& counts);

[[nodiscard]] result::Table bundles_table(const Counts& counts, const std::vector<Bundle>& bundles);

}  // namespace pear::offers
