#include "analysis/run_question.hpp"

#include <algorithm>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "analysis/population.hpp"
#include "analysis/tables/member_labels.hpp"
#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "daybook/merge.hpp"
#include "daybook/select.hpp"
#include "expression/aggregate/windows.hpp"

namespace pear::analysis {

std::vector<GivenExpression> all_trees(const PreparedQuestion& question, const SharedOptions& shared) {
  std::vector<GivenExpression> trees = question.trees;
  if (question.customers) trees.push_back({"customers", *question.customers, {}});
  for (const expression::Tree& tree : shared.with) trees.push_back({"with", tree, {}});
  if (shared.selection.where) trees.push_back({"where", *shared.selection.where, {}});
  return trees;
}

namespace {

OrError<daybook::Daybook> load(const std::set<std::string>& names, const DaybookSource& source) {
  const std::vector<std::string> wanted(names.begin(), names.end());
  PEAR_ASSIGN(daybook::Daybook daybook, source.load(daybook::inputs_of(wanted)));
  return daybook::completed(std::move(daybook), wanted);
}

}  // namespace

OrError<expression::WithWindows> prepared_daybook(const PreparedQuestion& question,
                                                  const SharedOptions& shared, const DaybookSource& source) {
  std::set<std::string> names(question.columns.begin(), question.columns.end());
  names.insert({std::string(daybook::role::kOrderDate), std::string(daybook::role::kIsReturn)});
  if (!shared.selection.is_all()) names.emplace(daybook::role::kAmount);
  if (shared.selection.quiet_since) names.emplace("last_order_date");
  const std::vector<std::string> known = daybook::known_columns(source.columns);
  for (const std::string& name : question.where_there)
    if (std::find(known.begin(), known.end(), name) != known.end()) names.insert(name);
  for (const auto& [name, level] : source.levels)
    if (question.level == level) names.insert(name);
  std::vector<expression::Window> windows;
  for (const GivenExpression& given : all_trees(question, shared)) {
    std::vector<std::string> names_here = known;
    names_here.insert(names_here.end(), given.names.begin(), given.names.end());
    if (const auto found = expression::check_names(given.tree, names_here); !found)
      return usage_error(fmt::format("--{}: {}", given.option, found.error().message));
    for (const std::string& name :
         expression::columns_of(given.tree)) {  // a header may be written as in the file
      const bool as_it_is = std::find(known.begin(), known.end(), name) != known.end();
      names.insert(as_it_is ? name : snake_case(name));
    }
    windows.insert(windows.end(), given.tree.windows.begin(), given.tree.windows.end());
  }
  PEAR_ASSIGN(daybook::Daybook daybook, load(names, source));
  return expression::add_windows(std::move(daybook), windows);
}

tl::unexpected<Error> nothing_selected(const result::Population& whole, const std::vector<std::string>& notes,
                                       const Selection& selection, Date data_end) {
  return data_error(fmt::format("the selection ({}) contains none of the {}, which range from {} to {}.{}{}",
                                describe(selection, data_end), counted(whole.lines, "line"),
                                to_text(*whole.first_date), to_text(*whole.last_date),
                                notes.empty() ? "" : " ", join(notes, " ")));
}

namespace {

/// Marks the customers with a selected line; all lines stay.
OrError<void> choose_customers(const Selection& of_customers, QuestionInput& input) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(const std::vector<std::uint8_t> chosen, selected_lines(of_customers, lines, input.data_end));
  for (const std::string& note : unknown_values(of_customers, lines)) input.notes.push_back(note);
  input.chosen_customers.assign(input.daybook.customers(), 0);
  for (std::uint32_t customer = 0; customer < input.daybook.customers(); ++customer) {
    const daybook::Run run = daybook::lines_of_customer(input.daybook, customer);
    const auto begin = chosen.begin() + run.begin, end = chosen.begin() + run.end;
    input.chosen_customers[customer] = std::find(begin, end, 1) != end ? 1 : 0;
  }
  if (std::find(chosen.begin(), chosen.end(), 1) == chosen.end())
    return nothing_selected(input.population, input.notes, of_customers, input.data_end);
  return {};
}

/// A source of the customers of both daybooks. `asked` receives the ids of those who are asked about.
DaybookSource with_learned(const DaybookSource& source, TextArray& asked) {
  DaybookSource both = source;
  both.load = [&source, &asked](const std::vector<std::string>& columns) -> OrError<daybook::Daybook> {
    std::set<std::string> names(columns.begin(), columns.end());
    names.insert({std::string(daybook::role::kQuantity), std::string(daybook::role::kUnitPrice),
                  std::string(daybook::role::kAmount), std::string(daybook::role::kOrderId),
                  std::string(daybook::role::kCustomerId), std::string(daybook::role::kProductId)});
    const std::vector<std::string> wanted(names.begin(), names.end());
    PEAR_ASSIGN(const daybook::Daybook own, source.load(wanted));
    PEAR_ASSIGN(daybook::Daybook others, source.load_learned(wanted));
    asked = own.customer_ids();
    return daybook::with_other_customers(own, std::move(others));
  };
  return both;
}

/// Leaves only those that are asked about among the chosen customers.
OrError<void> choose_asked(const TextArray& asked, const Selection& selection, QuestionInput& input) {
  std::vector<std::uint8_t> chosen(input.daybook.customers());
  std::uint32_t customer = 0;
  for (std::size_t i = 0; i < asked.size(); ++i) {  // both are in natural order
    while (customer < chosen.size() && natural_compare(input.daybook.customer_ids()[customer], asked[i]) < 0)
      ++customer;
    if (customer < chosen.size() && input.daybook.customer_ids()[customer] == asked[i]) chosen[customer] = 1;
  }
  for (std::size_t i = 0; i < input.chosen_customers.size(); ++i) chosen[i] &= input.chosen_customers[i];
  if (std::find(chosen.begin(), chosen.end(), 1) == chosen.end())
    return nothing_selected(input.population, input.notes, selection, input.data_end);
  input.chosen_customers = std::move(chosen);
  return {};
}

OrError<QuestionInput> selected(expression::WithWindows prepared, const Selection& selection) {
  QuestionInput input = input_of(std::move(prepared.daybook));
  input.grains = std::move(prepared.grains);
  if (selection.is_all()) return input;
  std::vector<std::uint8_t> chosen;
  {
    const expression::LineView lines(input.daybook, input.grains);
    PEAR_ASSIGN(chosen, selected_lines(selection, lines, input.data_end));
    input.notes = unknown_values(selection, lines);
  }
  if (std::find(chosen.begin(), chosen.end(), 1) == chosen.end())
    return nothing_selected(input.population, input.notes, selection, input.data_end);
  input.whole = input.population;
  input.daybook = daybook::select_lines(std::move(input.daybook), chosen);
  input.population = population_of(input.daybook);
  PEAR_ASSIGN(const DaySpan days, days_of(selection, input.data_end));
  input.data_end = std::min(input.data_end, days.last);
  return input;
}

/// Columns that the user named with AS, or chose to show, must not share a name with another column of the
/// table.
OrError<void> check_column_names(const result::Result& result) {
  for (const result::Table& table : result.tables) {
    std::set<std::string> names;
    for (const result::TableColumn& column : table.columns) {
      if (!names.insert(column.name).second)
        return usage_error(
            fmt::format("two columns of {} would be called {}. Give one of them another name with AS.",
                        in_quotes(table.title), in_quotes(column.name)));
    }
  }
  return {};
}

OrError<MemberLabels> labels_of(const std::vector<expression::Tree>& with, const QuestionInput& input) {
  const expression::LineView lines(input.daybook, input.grains);
  return MemberLabels::prepare("with", with, lines);
}

/// Notes it if no table has rows for a column of --with.
void add_labels(const MemberLabels& labels, const SharedOptions& shared, result::Result& result) {
  bool added = false;
  for (result::Table& table : result.tables) added = labels.add_to(table) || added;
  if (!shared.with.empty() && !added)
    result.notes.push_back(
        fmt::format("--with {} is not shown: no table here has rows of customers or "
                    "products that it describes.",
                    shared.with.front().text));
}

}  // namespace

OrError<result::Result> with_selection(result::Result result, const AskedOf& asked,
                                       const MemberLabels& labels, const PreparedQuestion& question,
                                       const SharedOptions& shared) {
  add_labels(labels, shared, result);
  PEAR_TRY(check_column_names(result));
  PEAR_TRY(choose_main_rows(shared.rows, result));
  const Date data_end = asked.whole ? *asked.whole->last_date : *asked.population.last_date;
  result.population = asked.population;
  result.whole = asked.whole;
  result.selection = describe(shared.selection, data_end);
  result.currency = asked.currency;
  result.notes.insert(result.notes.begin(), asked.notes.begin(), asked.notes.end());
  if (asked.population.one_in > 0) result.notes.insert(result.notes.begin(), sample_note(asked.population));
  const std::vector<GivenExpression> trees = all_trees(question, shared);
  if (std::any_of(trees.begin(), trees.end(),
                  [](const GivenExpression& given) { return expression::uses_current_date(given.tree); }))
    result.notes.push_back(fmt::format("CURRENT_DATE is {}, the end of the data.", to_text(data_end)));
  return result;
}

OrError<result::Result> run_question(const PreparedQuestion& question, const SharedOptions& shared,
                                     const DaybookSource& source) {
  const Selection& selection = shared.selection;
  TextArray asked_customers;
  PEAR_ASSIGN(expression::WithWindows prepared,
              prepared_daybook(question, shared,
                               source.load_learned ? with_learned(source, asked_customers) : source));
  Selection of_lines = selection, of_customers;
  of_customers.where = question.customers;
  if (question.learns_from_all) of_customers.quiet_since = std::exchange(of_lines.quiet_since, std::nullopt);
  PEAR_ASSIGN(QuestionInput input, selected(std::move(prepared), of_lines));
  if (!of_customers.is_all()) PEAR_TRY(choose_customers(of_customers, input));
  if (source.load_learned) PEAR_TRY(choose_asked(asked_customers, selection, input));
  input.currency = source.currency;
  input.population.one_in = source.one_in;
  input.side_tables = source.side_tables;
  input.progress = source.progress;
  const AskedOf asked{input.population, input.whole, input.notes, source.currency};
  PEAR_ASSIGN(const MemberLabels labels, labels_of(shared.with, input));
  PEAR_ASSIGN(result::Result result, question.ask(std::move(input)));
  return with_selection(std::move(result), asked, labels, question, shared);
}

}  // namespace pear::analysis
