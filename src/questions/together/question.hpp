// together: what is bought together.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/together/counts.hpp"
#include "questions/together/options.hpp"
#include "result/result.hpp"

namespace pear::together {

/// Pairs, larger sets and rules of items that baskets contain together, with a test of each and control
/// of the false discovery rate. Errors: usage, if an option does not fit, or more sets than --at-most reach
/// the support, with the support that would fit; data, if no basket has two items.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

/// The result of counts that may come from elsewhere.
[[nodiscard]] result::Result result_of(const Counts& counts);

[[nodiscard]] analysis::Question question();

}  // namespace pear::together
