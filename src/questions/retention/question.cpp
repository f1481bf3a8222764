#include "questions/retention/question.hpp"

#include <utility>

#include "questions/retention/figure.hpp"
#include "questions/retention/finding.hpp"
#include "questions/retention/tables.hpp"

namespace pear::retention {

OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input) {
  result::Result result;
  result.question = "retention";
  result.population = input.population;
  result.definitions = definitions_of(counts.options);
  result.headline = headline_of(counts, input.currency);
  result.tables = {shares_table(counts), amounts_table(counts), cells_table(counts)};
  add_checks(counts, result);
  add_notes(counts, result);
  result.figures = figures_of(counts, result.headline);
  return result;
}

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(input, options));
  return result_of(counts, input);
}

analysis::Question question() {
  return {
      "retention",
      "who orders again, and how much customers bring in, by cohort",
      "Groups customers by the month of their first order, and shows for each month since then how "
      "many\nordered "
      "and how much they have brought in. Months begin on each customer's own first day, and a\ncell is "
      "filled "
      "when the month is over for the whole cohort, so that new customers are not compared\nwith old ones.",
      {"pear-thread retention shop.daybook", "pear-thread retention --cohort quarter --period quarter",
       "pear-thread retention --cohort region --period \"30 days\"", "pear-thread retention --calendar"},
      analysis::infos(option_declarations()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, read_options(values));
        analysis::PreparedQuestion prepared;
        prepared.columns = {std::string(daybook::role::kOrderDate), std::string(daybook::role::kIsReturn),
                            std::string(daybook::role::kAmount)};
        for (const expression::Tree& tree : options.columns) prepared.trees.push_back({"cohort", tree, {}});
        prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
        return prepared;
      },
      "",
      24};
}

}  // namespace pear::retention
