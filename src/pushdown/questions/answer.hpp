// How a question is answered in a database.
#pragma once

#include "analysis/options/option.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "pushdown/grouped_lines.hpp"
#include "result/result.hpp"

namespace pear::pushdown {

/// Computes the counts of a question by statements over the selected lines, and its result from them. The
/// input has the population, and the customers and products that the question shows. Errors: usage, for what
/// databases do not answer; those of the question; io and data.
using Answer = OrError<result::Result>(const analysis::OptionValues& values, const SelectedLines& lines,
                                       const analysis::QuestionInput& input);

}  // namespace pear::pushdown
