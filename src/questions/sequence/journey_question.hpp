// journey: the result of sequence --journey.
#pragma once

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/sequence/options.hpp"
#include "result/result.hpp"

namespace pear::sequence {

/// How customers move from one value of a column to the next, and where they stop. Errors: see travel().
[[nodiscard]] OrError<result::Result> ask_journey(const analysis::QuestionInput& input,
                                                  const Options& options);

}  // namespace pear::sequence
