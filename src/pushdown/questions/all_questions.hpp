// The questions that databases answer.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "pushdown/questions/answer.hpp"

namespace pear::pushdown {

struct AnswerInDatabase {
  std::string question;
  Answer* answer = nullptr;
};

/// Null for a question that databases do not answer.
[[nodiscard]] const AnswerInDatabase* find_answer(std::string_view question);
[[nodiscard]] std::vector<std::string> questions_in_databases();

}  // namespace pear::pushdown
