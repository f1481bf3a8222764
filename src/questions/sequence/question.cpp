#include "questions/sequence/question.hpp"

#include <utility>

#include "questions/sequence/counts.hpp"
#include "questions/sequence/figure.hpp"
#include "questions/sequence/finding.hpp"
#include "questions/sequence/journey_question.hpp"
#include "questions/sequence/tables.hpp"

namespace pear::sequence {

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  if (options.journey) return ask_journey(input, options);
  PEAR_ASSIGN(const Counts counts, count(input, options));
  return result_of(counts);
}

result::Result result_of(const Counts& counts) {
  result::Result result;
  result.question = "sequence";
  result.population = counts.input.population;
  result.definitions = definitions_of(counts);
  result.headline = headline_of(counts);
  result.tables = {sequences_table(counts), transitions_table(counts), timing_table(counts)};
  result.figures = figures_of(counts);
  add_checks(counts, result);
  add_notes(counts, result);
  return result;
}

analysis::Question question() {
  return {"sequence",
          "what is bought one after another, and how long after",
          "Follows customers through time: which products are bought after which others on later days, by "
          "how\nmany customers, and how soon. Each product counts once for a customer, at its first "
          "purchase, unless\n--repeats changes that; returns do not count.",
          {"pear-thread sequence shop.daybook", "pear-thread sequence --product P53",
           "pear-thread sequence --count category --max-gap 90",
           "pear-thread sequence --repeats only --longest 6", "pear-thread sequence --journey category"},
          analysis::infos(option_declarations()),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const Options options, read(values));
            analysis::PreparedQuestion prepared =
                mining::prepared_for_baskets(options.journey ? options.journey : options.items);
            prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
            return prepared;
          }};
}

}  // namespace pear::sequence
