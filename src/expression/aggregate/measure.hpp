// What the numbers of an expression are.
#pragma once

#include <string_view>

#include "expression/syntax/node.hpp"

namespace pear::expression {

/// What the numbers of a figure are, as far as the names of its columns tell.
enum class Measure : std::uint8_t { number, count, money };

/// By the names of its columns: amounts, prices and costs are money; a share of money in money is a number,
/// and money by pieces is money; counts are counts. The node's types need not be settled.
[[nodiscard]] Measure measure_of(const Node& node);

/// Of a column, by its name in lower case.
[[nodiscard]] Measure measure_of_column(std::string_view column);

}  // namespace pear::expression
