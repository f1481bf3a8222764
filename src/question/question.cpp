#include "question/question.hpp"

#include "question/baskets.hpp"
#include "question/concentration.hpp"
#include "question/crosstab.hpp"
#include "question/customer.hpp"
#include "question/distinct.hpp"
#include "question/first.hpp"
#include "question/frequency.hpp"
#include "question/offers.hpp"
#include "question/prices.hpp"
#include "question/product.hpp"
#include "question/sequence.hpp"
#include "question/together.hpp"

namespace pear {

const std::vector<Question>& questions() {
  static const std::vector<Question> kTable = {
      first_question(),         frequency_question(), distinct_question(), prices_question(),
      concentration_question(), crosstab_question(),  baskets_question(),  together_question(),
      sequence_question(),      offers_question(),    customer_question(), product_question()};
  return kTable;
}

}  // namespace pear
