// product: who buys one product, when, at what prices, and with what.
#pragma once

#include "analysis/find_member.hpp"

namespace pear::lookup {

/// The buyers of a product, its months, prices, and the products of the same orders; or, if several share a
/// name, a row for each of them. Errors: usage, if there is no such product; data, if a sum is out of the
/// range of Decimal.
[[nodiscard]] OrError<result::Result> ask_product(const analysis::QuestionInput& input,
                                                  const analysis::MemberOptions& options);

[[nodiscard]] analysis::Question product_question();

}  // namespace pear::lookup
