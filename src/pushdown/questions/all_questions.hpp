// The questions that databases answer.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "analysis/options/option.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "pushdown/grouped_lines.hpp"
#include "result/result.hpp"

namespace pear::pushdown {

struct AnswerInDatabase {
  std::string question;
  /// The input has the population, and the customers and products that the question shows.
  OrError<result::Result> (*answer)(const analysis::OptionValues&, const SelectedLines&,
                                    const analysis::QuestionInput&);
};

/// Null for a question that databases do not answer.
[[nodiscard]] const AnswerInDatabase* find_answer(std::string_view question);
[[nodiscard]] std::vector<std::string> questions_in_databases();

}  // namespace pear::pushdown
