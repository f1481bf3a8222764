// first: what each customer bought first, and what became of it.
#pragma once

#include "base/error.hpp"
#include "question/question.hpp"
#include "result/result.hpp"

namespace pear {

/// One row for each customer with at least one order: the first order, the second, and the sum of all. The
/// first order is the earliest by (date, time of day, order id) that has a line that is not a return; its
/// products are those of such lines. Amounts are exact. Customers who only ever returned are told in a note.
/// Error: data, where a sum leaves the range of Decimal. O(lines), on all threads. Memory: about 100 bytes a
/// customer. Needs the columns order_date, is_return, amount and the ids of customers, orders and products.
[[nodiscard]] OrError<Result> ask_first(const Asked& asked);

[[nodiscard]] Question first_question();

}  // namespace pear
