// What the values of a source show about the roles of its columns, independent of their names.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "intake/inspect/profile.hpp"

namespace pear::intake {

/// How the reasons of these roles begin.
constexpr std::string_view kByValues = "by its values: ";

struct ValueRole {
  std::string_view role;
  std::size_t column = 0;
  std::string why;  ///< the evidence, with figures
};

/// The roles of lines that the first rows give away: dates; an order id, which has one date and repeats; a
/// customer, of whom an order has one; a product, of which an order has several; quantity and price, whose
/// product is the amount. `known` are the columns that have a role already, by role; only others are
/// proposed. O(rows of the sample x columns^2).
[[nodiscard]] std::vector<ValueRole> roles_by_values(const SourceProfile& source,
                                                     const std::map<std::string_view, std::size_t>& known);

}  // namespace pear::intake
