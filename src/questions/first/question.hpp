// first: what each customer bought first, and what became of it.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/first/options.hpp"
#include "result/result.hpp"

namespace pear::first {

/// One row for each customer with at least one order: the first order, the second, and the sum of all; new
/// customers by month; and for each product of first orders what became of the customers who began with it.
/// The first order is the earliest by (date, time of day, order id) that has a line that is not a return; its
/// products are those of such lines. Amounts are exact. Customers who only ever returned are counted in a
/// note. Errors: data, where a sum leaves the range of Decimal; usage, where an expression does not fit.
/// O(lines), on all threads. Needs the columns order_date, is_return, amount and the ids of customers, orders
/// and products.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::first
