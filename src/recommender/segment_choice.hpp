// Customers in groups that buy alike.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "base/error.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/tree.hpp"
#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// By an expression of customers, or, if there is none, by the column of customers that is most informative
/// about what they buy, if any is: the one with the largest mutual information between its values and the
/// products that customers bought, minus the value expected by chance (Miller, Note on the bias of
/// information estimates, 1955); of 2 to 50 values. Errors: usage, for an expression that does not fit, or
/// more than 100 groups.
[[nodiscard]] OrError<analysis::CustomerGroups> choose_segments(const std::optional<expression::Tree>& input,
                                                                const expression::LineView& lines,
                                                                const mining::Histories& histories);

}  // namespace pear::recommender
