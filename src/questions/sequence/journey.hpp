// sequence --journey: how customers go on from step to step.
#pragma once

#include "base/error.hpp"
#include "questions/sequence/question.hpp"

namespace pear::sequence {

/// The shares of customers by their first, second, third ... value of the column of --journey, and how many
/// stop at each step. A step is a day on which a customer bought something; with Repeats::first, something of
/// a value not bought before. It is named by what brought the largest amount that day, of what counts.
/// Errors: usage, where the expression does not fit; data, where nobody bought anything.
[[nodiscard]] OrError<result::Result> ask_journey(const analysis::QuestionInput& asked,
                                                  const Options& options);

}  // namespace pear::sequence
