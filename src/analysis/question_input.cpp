#include "analysis/question_input.hpp"

#include <utility>

#include "analysis/population.hpp"

namespace pear::analysis {

QuestionInput input_of(daybook::Daybook daybook) {
  QuestionInput input;
  input.population = population_of(daybook);
  input.data_end = input.population.last_date.value_or(Date{});
  input.daybook = std::move(daybook);
  return input;
}

}  // namespace pear::analysis
