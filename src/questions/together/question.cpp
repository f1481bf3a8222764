#include "questions/together/question.hpp"

#include "questions/together/figure.hpp"
#include "questions/together/finding.hpp"
#include "questions/together/tables.hpp"

namespace pear::together {

result::Result result_of(const Counts& counts) {
  result::Result result;
  result.question = "together";
  result.population = counts.input.population;
  result.definitions = definitions_of(counts);
  result.headline = headline_of(counts);
  result.tables = {pairs_table(counts), sets_table(counts), rules_table(counts), items_table(counts)};
  result.figures = figures_of(counts);
  add_checks(counts, result);
  add_notes(counts, result);
  return result;
}

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(input, options));
  return result_of(counts);
}

analysis::Question question() {
  return {"together",
          "what is bought together: pairs, larger sets, and rules",
          "Counts the baskets that contain two or more products, compared with the number expected if "
          "products were put\ninto baskets at random. Each combination is tested, with control of the false "
          "discovery rate, and listed once;\nreturns do not count.",
          {"pear-thread together shop.daybook", "pear-thread together --basket \"14 days\" --count category",
           "pear-thread together --product P43",
           "pear-thread together --support 1% --condense closed --sort \"lift desc\""},
          analysis::infos(option_declarations()),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const Options options, read(values));
            analysis::PreparedQuestion prepared = mining::prepared_for_baskets(options.items);
            prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
            return prepared;
          }};
}

}  // namespace pear::together
