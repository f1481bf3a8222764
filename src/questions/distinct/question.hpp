// distinct: how many distinct values there are, in total or for each value of other columns.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/distinct/counts.hpp"
#include "questions/distinct/options.hpp"
#include "result/result.hpp"

namespace pear::distinct {

/// Counts distinct values in lines that are not returns, and next to them the orders and lines with such a
/// value, so that the three are not confused. Orders are distinguished by customer and id. Empty values are
/// not counted. O(lines log lines of a customer), on all threads. Errors: usage, if an expression does not
/// fit. Needs order_date and is_return, and amount with --list.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

/// The result of counts that may come from elsewhere: of the input, its daybook is not read.
[[nodiscard]] OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input);

[[nodiscard]] analysis::Question question();

}  // namespace pear::distinct
