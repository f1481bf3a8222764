// first: each customer's first purchases, and the orders after them.
#pragma once

#include <memory>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/first/counts.hpp"
#include "questions/first/options.hpp"
#include "result/result.hpp"

namespace pear::first {

/// One row for each customer with at least one order: the first order, the second, and the total of all; new
/// customers by month; and for each product of first orders, what its customers did afterwards. The first
/// order is the earliest by (date, time of day, order id) with a line that is not a return; its products are
/// those of such lines. Amounts are exact. Customers with returns only are counted in a note. Errors: data,
/// if a sum is out of the range of Decimal; usage, if an expression does not fit. O(lines), on all threads.
/// Needs the columns order_date, is_return, amount and the ids of customers, orders and products.
[[nodiscard]] OrError<result::Result> ask(analysis::QuestionInput input, const Options& options);

/// The result of counts that may come from elsewhere.
[[nodiscard]] result::Result result_of(const std::shared_ptr<const Counts>& kept);

[[nodiscard]] analysis::Question question();

}  // namespace pear::first
