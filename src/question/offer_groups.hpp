// Customers put into groups that buy alike.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "expression/line_view.hpp"
#include "expression/tree.hpp"
#include "question/customer_groups.hpp"
#include "question/histories.hpp"

namespace pear {

/// By an expression of customers, or, where there is none, by the column of customers that tells most about
/// what they buy, if any does: that with the largest mutual information between its values and the products
/// that customers bought, less what chance would give (Miller, Note on the bias of information estimates,
/// 1955); of 2 to 50 values. Errors: usage, for an expression that does not fit, or more than 100 groups.
[[nodiscard]] OrError<CustomerGroups> offer_groups(const std::optional<Tree>& asked, const LineView& lines,
                                                   const Histories& histories);

}  // namespace pear
