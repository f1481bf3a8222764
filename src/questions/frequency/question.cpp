#include "questions/frequency/question.hpp"

#include <utility>

#include "questions/frequency/figure.hpp"
#include "questions/frequency/finding.hpp"
#include "questions/frequency/tables.hpp"

namespace pear::frequency {

OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input) {
  result::Result result;
  result.question = "frequency";
  result.population = input.population;
  result.definitions = definitions_of(counts.options);
  add_notes(counts, input.data_end, result);
  result.tables = {distribution_table(counts)};
  add_checks(counts, result);
  result.headline = headline_of(counts);
  if (counts.all_groups().customers == 0) return result;
  result.tables.push_back(summary_table(counts));
  if (counts.options.list) result.tables.push_back(list_table(counts));
  if (counts.customers() == 0) return result;
  result.figures = {figure_of(counts, result.headline)};
  if (counts.quiet) {
    result.stakes = stakes_of(counts, result.headline.size());
    result.headline.push_back(quiet_sentence(counts, input.currency));
    if (auto curves = waiting_figure(counts)) result.figures.push_back(std::move(*curves));
  }
  return result;
}

OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Counts counts, count(input, options));
  return result_of(counts, input);
}

analysis::Question question() {
  return {
      "frequency",
      "how many customers ordered how often",
      "Counts each customer's orders and shows how many customers placed one, two, three and more, "
      "the\nrepeat rate, and the days between orders. With --within, only that time after each "
      "customer's first\norder counts, and only customers whose time is entirely within the data, so that "
      "old customers are\nnot compared with new ones. --by compares groups of customers. --list shows each "
      "customer: who has\nbeen silent for unusually long, what they spent, and what share of such customers "
      "order again.",
      {"pear-thread frequency shop.daybook", "pear-thread frequency shop.daybook --within 90 --by first_year",
       "pear-thread frequency --bands 1,2-5,6-10,11+ --by region",
       "pear-thread frequency --list --horizon \"6 months\" --with region",
       "pear-thread frequency --count \"sum(amount) as amount\" --bands 0-100,100-500,500+"},
      analysis::infos(option_declarations()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, read_options(values));
        analysis::PreparedQuestion prepared;
        prepared.columns = {std::string(daybook::role::kOrderDate), std::string(daybook::role::kIsReturn)};
        if (options.list) {
          prepared.columns.emplace_back(daybook::role::kCustomerId);
          prepared.columns.emplace_back(daybook::role::kAmount);
          prepared.where_there.emplace_back("customer_name");
        }
        for (const expression::Tree& tree : options.by) prepared.trees.push_back({"by", tree, {}});
        if (options.count) prepared.trees.push_back({"count", *options.count, expression::ready_figures()});
        prepared.ask = [options](const analysis::QuestionInput& input) { return ask(input, options); };
        return prepared;
      },
      "",
      24};
}

}  // namespace pear::frequency
