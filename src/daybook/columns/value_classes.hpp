// Classes A, B and C of customers and products, by their amounts.
#pragma once

#include <cstdint>
#include <vector>

#include "daybook/column.hpp"
#include "daybook/daybook.hpp"

namespace pear::daybook {

/// The class of each member by its amount (units; kEmptyUnits for a member that is not ranked, which has no
/// class). Class A is the fewest largest members that have 80% of all amounts above 0, class B those up to
/// 95%, class C the others; of equal amounts the first member comes first. No classes if no amount is above
/// 0. O(members log members).
[[nodiscard]] TextValues value_classes(const std::vector<std::int64_t>& amounts);

/// The amount of each product's lines, net of returns; kEmptyUnits for a product without lines. Needs the
/// products and amounts of lines. O(lines).
[[nodiscard]] std::vector<std::int64_t> product_amounts(const Daybook& daybook);

}  // namespace pear::daybook
