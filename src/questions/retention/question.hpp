// retention: who orders again, and how much customers bring in, by cohort and time since the first order.
#pragma once

#include "analysis/question.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/retention/counts.hpp"
#include "questions/retention/options.hpp"
#include "result/result.hpp"

namespace pear::retention {

/// Errors: see count().
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

/// The result of counts that may come from elsewhere: of the input, its daybook is not read.
[[nodiscard]] OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input);

[[nodiscard]] analysis::Question question();

}  // namespace pear::retention
