// concentration: how much the largest members account for.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/concentration/counts.hpp"
#include "questions/concentration/options.hpp"
#include "result/result.hpp"

namespace pear::concentration {

/// Members of a column ranked by a figure, with cumulative shares (the Pareto curve), classes and the Gini
/// coefficient. Figures at or below 0 count as 0 in shares, and a note reports them. O(lines) on all threads,
/// and a sort of the members. Errors: usage, if an expression does not fit.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

/// The result of counts that may come from elsewhere: of the input, its daybook is not read.
[[nodiscard]] OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input);

[[nodiscard]] analysis::Question question();

}  // namespace pear::concentration
