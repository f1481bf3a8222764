// sequence: what is bought one after another, and how long after.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/sequence/counts.hpp"
#include "questions/sequence/options.hpp"
#include "result/result.hpp"

namespace pear::sequence {

/// Sequences of items that customers bought on successive days, and all pairs of them with direction, rate
/// and time. Errors: usage, if an option does not fit, or more sequences than --at-most reach the support,
/// with the support that would fit; data, if nobody bought on two days.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

/// The result of counts that may come from elsewhere.
[[nodiscard]] result::Result result_of(const Counts& counts);

[[nodiscard]] analysis::Question question();

}  // namespace pear::sequence
