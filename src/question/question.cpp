#include "question/question.hpp"

#include "question/crosstab.hpp"
#include "question/first.hpp"
#include "question/frequency.hpp"

namespace pear {

const std::vector<Question>& questions() {
  static const std::vector<Question> kTable = {crosstab_question(), first_question(), frequency_question()};
  return kTable;
}

}  // namespace pear
