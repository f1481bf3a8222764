// crosstab: any figures, by any columns down and across.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/crosstab/options.hpp"
#include "result/result.hpp"

namespace pear::crosstab {

/// Tables: the cross-tabulation with subtotals and totals; the same with one row a cell; the lines of a cell
/// if requested. Every total is computed from its own lines. Figures are exact except for divisions, which
/// have four places. Cost: a pass over the lines for each aggregate and each pair of depths of the two axes.
/// Errors: usage, if expressions do not fit, or there are more than 16,000 columns or 20 million cells; data,
/// if a sum is out of the range of Decimal.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::crosstab
