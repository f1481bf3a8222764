// The table of questions.
#pragma once

#include <vector>

#include "analysis/question.hpp"

namespace pear::questions {

/// All questions, in the order in which help lists them.
[[nodiscard]] const std::vector<analysis::Question>& all_questions();

}  // namespace pear::questions
