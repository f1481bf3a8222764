#include "questions/frequency/question.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "questions/frequency/counts.hpp"
#include "questions/frequency/tables.hpp"

namespace pear::frequency {
namespace {

void add_notes(const Finding& finding, Date data_end, result::Result& result) {
  const Options& options = finding.options;
  const OrderCounts& orders = finding.orders;
  const std::string window =
      options.within ? counted(static_cast<std::uint64_t>(*options.within), "day") : std::string();
  if (orders.incomplete > 0 && !options.include_incomplete)
    result.notes.push_back(
        fmt::format("{} left out: too new to judge, since their first {} are not wholly within the data, "
                    "which ends on {}.",
                    counted(orders.incomplete, "customer"), window, to_text(data_end)));
  if (orders.incomplete > 0 && options.include_incomplete)
    result.notes.push_back(fmt::format(
        "{} counted although their first {} are not over on {}, where the data ends: they may order "
        "more in the rest of them.",
        counted(orders.incomplete, "customer"), window, to_text(data_end)));
  if (orders.without_order > 0)
    result.notes.push_back(fmt::format("{} left out: they have returns and no order.",
                                       counted(orders.without_order, "customer")));
  if (finding.values.without_value > 0)
    result.notes.push_back(fmt::format("{} left out of the distribution: they have no value of {}.",
                                       counted(finding.values.without_value, "customer"),
                                       finding.values.name));
  if (!finding.distribution.has_outside) return;
  const std::size_t outside = finding.distribution.places() - 1;
  result.notes.push_back(
      fmt::format("{} in no band of --bands. A band holds both its ends; where two bands meet in a number, "
                  "as in 0-100,100-500, "
                  "nothing falls between.",
                  counted(finding.distribution.all(outside), "customer is", "customers are")));
}

/// The shares of each group's rows, which stand behind one another, come to 1.
bool shares_add_up(const result::Table& table, std::size_t labels) {
  const result::TableColumn& shares = table.columns[table.columns.size() - 2];
  const auto same_group = [&](std::size_t row) {
    for (std::size_t i = 0; i < labels; ++i)
      if (table.columns[i].text(row) != table.columns[i].text(row - 1)) return false;
    return true;
  };
  double sum = 0;
  for (std::size_t row = 0; row < table.rows(); ++row) {
    sum += shares.fraction(row);
    if (row + 1 < table.rows() && same_group(row + 1)) continue;
    if (std::abs(sum - 1) > 1e-9) return false;
    sum = 0;
  }
  return true;
}

void add_checks(const Finding& finding, result::Result& result) {
  const result::Population& population = result.population;
  const OrderFacts all = finding.all_groups();
  const std::uint64_t left_out =
      finding.orders.without_order + (finding.options.include_incomplete ? 0 : finding.orders.incomplete);
  const result::TableColumn& customers =
      result.tables.front().columns[result.tables.front().columns.size() - 3];
  std::uint64_t in_rows = 0;
  for (std::size_t row = 0; row < customers.size(); ++row)
    in_rows += static_cast<std::uint64_t>(customers.integer(row));
  result.checks.push_back({fmt::format("the rows and the customers left out add up to all {}",
                                       counted(population.customers, "customer")),
                           in_rows + finding.values.without_value + left_out == population.customers});
  result.checks.push_back(
      {finding.groups.is_split() ? "shares add up to 100% in every group" : "shares add up to 100%",
       shares_add_up(result.tables.front(), finding.groups.names.size())});
  if (!finding.options.within)
    result.checks.push_back(
        {fmt::format("orders of these customers add up to all {}", counted(population.orders, "order")),
         all.orders == population.orders});
}

result::Definitions definitions_of(const Options& options) {
  result::Definitions definitions = {
      {"order", "distinct order id of a customer with at least one line that is not a return"},
      {"came back", "placed a second order in the time that counts"},
      {"quantiles", "the smallest value that at least so large a part of all values do not exceed"}};
  if (options.within)
    definitions.emplace_back(
        "window",
        fmt::format("days 1 to {} of a customer, day 1 being that of the first order", *options.within));
  if (options.count) definitions.emplace_back(options.count->name, options.count->text);
  return definitions;
}

}  // namespace

OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options) {
  const expression::LineView lines(asked.daybook, asked.grains);
  Finding finding{options, {}, {}, {}, {}};
  PEAR_ASSIGN(finding.groups, analysis::group_customers(options.by, lines));
  finding.orders = count_orders(asked, options, finding.groups);
  PEAR_ASSIGN(finding.values, customer_values(asked, options, finding.orders, lines));
  PEAR_ASSIGN(finding.distribution, distribute(finding.values, options, finding.groups));

  result::Result result;
  result.question = "frequency";
  result.population = asked.population;
  result.definitions = definitions_of(options);
  add_notes(finding, asked.data_end, result);
  result.tables = {distribution_table(finding)};
  add_checks(finding, result);
  if (finding.all_groups().customers == 0) {
    result.headline = {finding.orders.incomplete > 0 ? "No customer can be judged: all are too new."
                                                     : "No customer placed an order."};
    return result;
  }
  result.tables.push_back(summary_table(finding));
  if (options.list) result.tables.push_back(list_table(finding, asked.daybook));
  result.headline = headline_of(finding);
  if (finding.customers() > 0) result.figures = {figure_of(std::move(finding), result.headline)};
  return result;
}

}  // namespace pear::frequency
