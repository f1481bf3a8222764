// distinct: how many different things, of everything or of each.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/distinct/options.hpp"
#include "result/result.hpp"

namespace pear::distinct {

/// Counts different values in lines that are not returns, and beside them the orders and lines that hold any,
/// so that the three are not taken for one another. Orders are distinguished by customer and id. Empty values
/// are none. O(lines log lines of a customer), on all threads. Errors: usage, where an expression does not
/// fit. Needs order_date and is_return, and amount with --list.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::distinct
