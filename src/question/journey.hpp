// sequence --journey: how customers go on from step to step.
#pragma once

#include "base/error.hpp"
#include "question/sequence.hpp"

namespace pear {

/// The shares of customers by their first, second, third ... value of the column of --journey, and how many
/// stop at each step. A step is a day on which a customer bought something; with Repeats::first, something of
/// a value not bought before. It is named by what brought the largest amount that day, of what counts.
/// Errors: usage, where the expression does not fit; data, where nobody bought anything.
[[nodiscard]] OrError<Result> ask_journey(const Asked& asked, const SequenceOptions& options);

}  // namespace pear
