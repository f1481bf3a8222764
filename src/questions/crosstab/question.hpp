// crosstab: any figures, by anything down and across.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/crosstab/options.hpp"
#include "result/result.hpp"

namespace pear::crosstab {

/// Tables: the cross-tabulation as people read it, with subtotals and totals; the same with one row a cell;
/// the lines behind a cell where they are asked for. Every total is made from its own lines. Figures are
/// exact but for divisions, which have four places. Cost: a pass over the lines for each aggregate and each
/// pair of depths of the two axes. Errors: usage, where expressions do not fit, or there are more than 16,000
/// columns or 20 million cells; data, where a sum leaves the range of Decimal.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::crosstab
