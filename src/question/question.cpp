#include "question/question.hpp"

#include "question/first.hpp"
#include "question/frequency.hpp"

namespace pear {

const std::vector<Question>& questions() {
  static const std::vector<Question> kTable = {first_question(), frequency_question()};
  return kTable;
}

}  // namespace pear
