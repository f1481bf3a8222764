// together, computed in a database.
#pragma once

#include "analysis/options/option.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "pushdown/grouped_lines.hpp"
#include "result/result.hpp"

namespace pear::pushdown {

/// See AnswerInDatabase. Pairs, and rules of two items, as with --size 2 --largest 2. The pairs of frequent
/// items are sent, with what the null model needs of each period: items by baskets, and sizes of baskets.
[[nodiscard]] OrError<result::Result> answer_together(const analysis::OptionValues& values,
                                                      const SelectedLines& lines,
                                                      const analysis::QuestionInput& input);

}  // namespace pear::pushdown
