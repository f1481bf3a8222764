// product: who buys one product, when, at what prices, and with what.
#pragma once

#include "question/member_lookup.hpp"

namespace pear {

/// The buyers of a product, its months, prices, and the products of the same orders; or, where several share
/// a name, a row for each of them. Errors: usage, where there is no such product; data, where a sum leaves
/// the range of Decimal.
[[nodiscard]] OrError<Result> ask_product(const Asked& asked, const MemberOptions& options);

[[nodiscard]] Question product_question();

}  // namespace pear
