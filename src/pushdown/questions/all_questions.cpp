#include "pushdown/questions/all_questions.hpp"

#include <algorithm>
#include <array>

#include "pushdown/questions/baskets.hpp"
#include "pushdown/questions/concentration.hpp"
#include "pushdown/questions/crosstab.hpp"
#include "pushdown/questions/distinct.hpp"
#include "pushdown/questions/first.hpp"
#include "pushdown/questions/frequency.hpp"
#include "pushdown/questions/prices.hpp"
#include "pushdown/questions/retention.hpp"
#include "pushdown/questions/sequence.hpp"
#include "pushdown/questions/together.hpp"

namespace pear::pushdown {
namespace {

const std::array<AnswerInDatabase, 10>& all_answers() {
  static const std::array<AnswerInDatabase, 10> kAnswers = {{{"baskets", answer_baskets},
                                                             {"concentration", answer_concentration},
                                                             {"crosstab", answer_crosstab},
                                                             {"distinct", answer_distinct},
                                                             {"first", answer_first},
                                                             {"frequency", answer_frequency},
                                                             {"prices", answer_prices},
                                                             {"retention", answer_retention},
                                                             {"sequence", answer_sequence},
                                                             {"together", answer_together}}};
  return kAnswers;
}

}  // namespace

const AnswerInDatabase* find_answer(std::string_view question) {
  const auto& answers = all_answers();
  const auto found = std::find_if(answers.begin(), answers.end(),
                                  [&](const AnswerInDatabase& each) { return each.question == question; });
  return found == answers.end() ? nullptr : &*found;
}

std::vector<std::string> questions_in_databases() {
  std::vector<std::string> names;
  for (const AnswerInDatabase& answer : all_answers()) names.push_back(answer.question);
  return names;
}

}  // namespace pear::pushdown
