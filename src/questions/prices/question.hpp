// prices: what customers pay, compared with others.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/prices/counts.hpp"
#include "questions/prices/options.hpp"
#include "result/result.hpp"

namespace pear::prices {

/// Price paid by product and customer, compared with the average of all customers, of the others, or the list
/// price, and whether the quantity explains it. Returns never count. O(lines + pairs log pairs) on all
/// threads. Errors: usage, if there is no such product; data, if there are no list prices to compare with, or
/// sums are out of range.
[[nodiscard]] OrError<result::Result> ask(analysis::QuestionInput input, const Options& options);

/// The result of counts that may come from elsewhere.
[[nodiscard]] result::Result result_of(const Counts& counts);

[[nodiscard]] analysis::Question question();

}  // namespace pear::prices
