// What the numbers of an expression measure.
#pragma once

#include <string_view>

#include "expression/syntax/node.hpp"

namespace pear::expression {

/// What the numbers of a figure measure, as far as the names of its columns show.
enum class Measure : std::uint8_t { number, count, money };

/// Derived from the names of its columns: amounts, prices and costs are money; money divided by money is a
/// number, and money divided by pieces is money; counts are counts. The node's types need not be checked yet.
[[nodiscard]] Measure measure_of(const Node& node);

/// Of a column, by its name in lower case.
[[nodiscard]] Measure measure_of_column(std::string_view column);

}  // namespace pear::expression
