// The figures of prices.
#pragma once

#include <vector>

#include "questions/prices/counts.hpp"
#include "result/figure.hpp"

namespace pear::prices {

/// Customers with the largest gaps and those whose prices volume does not explain; for one product, price by
/// quantity and by month.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::prices
