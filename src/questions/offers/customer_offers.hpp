// One customer's offers, with all evidence for them.
#pragma once

#include <memory>

#include "questions/offers/counts.hpp"
#include "result/result.hpp"

namespace pear::offers {

/// Headline and tables of the offers to --customer: the offers, the evidence for each, and the history.
/// Error: data, if the customer bought nothing.
[[nodiscard]] OrError<result::Result> customer_result(const std::shared_ptr<const Counts>& kept);

}  // namespace pear::offers
