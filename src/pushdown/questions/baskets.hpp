// baskets, computed in a database.
#pragma once

#include "analysis/options/option.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "pushdown/grouped_lines.hpp"
#include "result/result.hpp"

namespace pear::pushdown {

/// See AnswerInDatabase. Compositions, sizes and the values of each item; its pull is left out, as it needs
/// the baskets themselves.
[[nodiscard]] OrError<result::Result> answer_baskets(const analysis::OptionValues& values,
                                                     const SelectedLines& lines,
                                                     const analysis::QuestionInput& input);

}  // namespace pear::pushdown
