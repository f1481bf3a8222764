#include "questions/all_questions.hpp"

#include "questions/baskets/question.hpp"
#include "questions/concentration/question.hpp"
#include "questions/crosstab/question.hpp"
#include "questions/distinct/question.hpp"
#include "questions/first/question.hpp"
#include "questions/frequency/question.hpp"
#include "questions/lookup/customer.hpp"
#include "questions/lookup/product.hpp"
#include "questions/offers/question.hpp"
#include "questions/prices/question.hpp"
#include "questions/retention/question.hpp"
#include "questions/sequence/question.hpp"
#include "questions/together/question.hpp"

namespace pear::questions {

const std::vector<analysis::Question>& all_questions() {
  static const std::vector<analysis::Question> kTable = {
      first::question(),         frequency::question(), retention::question(),
      distinct::question(),      prices::question(),    concentration::question(),
      crosstab::question(),      baskets::question(),   together::question(),
      sequence::question(),      offers::question(),    lookup::customer_question(),
      lookup::product_question()};
  return kTable;
}

}  // namespace pear::questions
