// first, computed in a database.
#pragma once

#include "analysis/options/option.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "pushdown/grouped_lines.hpp"
#include "result/result.hpp"

namespace pear::pushdown {

/// See AnswerInDatabase. The lines of first orders are sent, as the answer names their products.
[[nodiscard]] OrError<result::Result> answer_first(const analysis::OptionValues& values,
                                                   const SelectedLines& lines,
                                                   const analysis::QuestionInput& input);

}  // namespace pear::pushdown
