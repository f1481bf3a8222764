#include "questions/first/question.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/wording.hpp"
#include "base/decimal.hpp"
#include "base/text.hpp"
#include "questions/first/entry_products.hpp"
#include "questions/first/tables.hpp"
#include "statistics/quantile.hpp"

namespace pear::first {
namespace {

std::string headline(const daybook::Daybook& daybook, const std::vector<FirstOrders>& beginnings) {
  std::uint64_t customers = 0;
  std::vector<std::int64_t> days;
  for (const FirstOrders& each : beginnings) {
    customers += each.has_order() ? 1U : 0U;
    if (each.second != expression::kNoMember)
      days.push_back(days_between(daybook.date_of_order(each.first), daybook.date_of_order(each.second)));
  }
  const std::uint64_t came_back = days.size();
  const auto median =
      static_cast<std::uint64_t>(statistics::quantile_of(days, statistics::kHalf).value_or(0));
  const std::string within =
      median == 0 ? "on the same day" : fmt::format("within {}", counted(median, "day"));
  if (customers == 1)
    return fmt::format(
        "1 customer placed a first order{}.",
        came_back == 0 ? " and has not ordered again" : fmt::format(", and ordered again {}", within));
  const std::string again = came_back == 0 ? "none of them ordered again"
                                           : fmt::format("{} of them ({}) ordered again, half of these {}",
                                                         with_thousands(static_cast<std::int64_t>(came_back)),
                                                         analysis::per_cent(came_back, customers), within);
  return fmt::format("{} placed a first order; {}.", counted(customers, "customer"), again);
}

void add_checks(const std::vector<FirstOrders>& beginnings, result::Result& result) {
  std::uint64_t with_order = 0, orders = 0;
  DecimalSum amounts;
  for (const FirstOrders& each : beginnings) {
    with_order += each.has_order() ? 1U : 0U;
    orders += each.orders;
    amounts.add(Decimal::from_units(each.amount));
  }
  const std::uint64_t without = result.population.customers - with_order;
  result.checks.push_back({fmt::format("the rows and the customers without order add up to all {}",
                                       counted(result.population.customers, "customer")),
                           result.tables.front().rows() + without == result.population.customers});
  result.checks.push_back({fmt::format("orders add up to all {}", counted(result.population.orders, "order")),
                           orders == result.population.orders});
  const auto total = amounts.total();
  result.checks.push_back(
      {fmt::format("amounts add up to the total of all lines, {}",
                   total ? with_thousands(*total) : fmt::format("{:.0f}", amounts.approximate())),
       total == result.population.amount});
}

/// The new customers of all months and groups.
result::Check months_add_up(const result::Table& months, std::uint64_t customers) {
  const result::TableColumn& column = months.columns[months.columns.size() - 3];
  std::uint64_t sum = 0;
  for (std::size_t row = 0; row < column.size(); ++row)
    sum += static_cast<std::uint64_t>(column.integer(row));
  return {fmt::format("new customers of all months add up to {}",
                      with_thousands(static_cast<std::int64_t>(customers))),
          sum == customers};
}

void add_notes(const analysis::QuestionInput& asked, const Entries& entries, const Options& options,
               result::Result& result) {
  const std::string begins = to_text(*asked.population.first_date);
  result.notes.push_back(
      fmt::format("{} on {}; whoever bought before that day counts as new at the first order since.",
                  asked.whole ? "What is selected begins" : "The data begins", begins));
  const std::uint64_t too_new = entries.customers - entries.judged;
  if (too_new > 0)
    result.notes.push_back(fmt::format(
        "{} too new to judge: their first {} are not wholly within the data, which ends on {}. They are "
        "left out of who came back by entry {}.",
        counted(too_new, "customer is", "customers are"),
        counted(static_cast<std::uint64_t>(options.follow), "day"), to_text(asked.data_end),
        entry_name(options)));
}

result::Definitions definitions_of(const Options& options) {
  return {{"first order",
           "the earliest by date, time of day and order id with at least one line that is not a return"},
          {"amounts", "of all lines of the selection, returns taken off"},
          {"came back",
           fmt::format("placed a second order on days 1 to {}, day 1 being that of the first order; of "
                       "customers for whom these days lie wholly within the data",
                       options.follow)},
          {"intervals", "95% Wilson score intervals"}};
}

/// The tables and figures behind the first table, once there is a customer with an order.
OrError<void> add_rest(const analysis::QuestionInput& asked, const expression::LineView& lines,
                       const std::vector<FirstOrders>& beginnings, const Options& options,
                       result::Result& result) {
  PEAR_ASSIGN(const analysis::CustomerGroups groups, analysis::group_customers(options.by, lines));
  PEAR_ASSIGN(const expression::GroupKey key, entry_key(lines, options));
  PEAR_ASSIGN(const Entries entries, entry_products_of(asked.daybook, key, beginnings));
  PEAR_ASSIGN(result::Table months, months_table(asked.daybook, beginnings, groups));
  result.tables.push_back(entry_table(entries, key, asked.daybook, options));
  result.checks.push_back(months_add_up(months, entries.customers));
  result.figures.push_back(months_figure(months, groups));
  result.figures.back().subtitle =
      fmt::format("Customers by the month of their first order; {}", counted(entries.customers, "customer"));
  result.tables.push_back(std::move(months));
  if (options.per) {
    PEAR_ASSIGN(result::Table each, first_of_each(lines, options));
    result.tables.push_back(std::move(each));
    result.tables.back().most_shown = 10;
  }
  result.headline = {headline(asked.daybook, beginnings), result.figures.back().title};
  const std::string entry = entry_headline(entries, key, asked.daybook, options);
  if (!entry.empty()) result.headline.push_back(entry);
  for (result::Figure& figure : entry_figure(entries, key, asked.daybook, options))
    result.figures.push_back(std::move(figure));
  add_notes(asked, entries, options, result);
  return {};
}

}  // namespace

OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options) {
  const daybook::Daybook& daybook = asked.daybook;
  const expression::LineView lines(daybook, asked.grains);
  const std::vector<FirstOrders> beginnings = first_orders_of(daybook, options.follow, asked.data_end);
  if (std::any_of(beginnings.begin(), beginnings.end(),
                  [](const FirstOrders& each) { return each.too_large; }))
    return data_error(
        "the amounts of one customer add up to more than 922,337,203,685,477. Look for wrong prices.");
  result::Result result;
  result.question = "first";
  result.population = asked.population;
  result.definitions = definitions_of(options);
  PEAR_ASSIGN(result::Table table, first_table(lines, beginnings, options));
  const std::uint64_t without = result.population.customers - table.rows();
  result.tables.push_back(std::move(table));
  add_checks(beginnings, result);
  if (without > 0)
    result.notes.push_back(
        fmt::format("{} left out: they have returns and no order.", counted(without, "customer")));
  if (result.tables.front().rows() == 0) {
    result.headline = {"No customer placed an order."};
    return result;
  }
  PEAR_TRY(add_rest(asked, lines, beginnings, options, result));
  return result;
}

namespace {

/// "product" stands for product_id.
OrError<void> set_per(Options& options, std::string_view text) {
  auto list = expression::parse_list(text == "product" ? daybook::role::kProductId : text);
  if (!list) return analysis::in_option("per", list.error());
  if (list->size() != 1) return usage_error("--per takes one column, not a list.");
  options.per = std::move(list->front());
  return {};
}

analysis::OptionDeclarations<Options> first_options() {
  using Options = Options;
  return {
      {{"per", "product|COLUMN", "", "also the first purchase of each product, or value of a column"},
       set_per},
      analysis::list_option<Options>({"by", "COLUMN,...", "", "new customers by month for each value"},
                                     &Options::by),
      analysis::list_option<Options>({"with", "COLUMN,...", "", "columns of customers to show in the rows"},
                                     &Options::with),
      analysis::whole_option<Options>({"follow", "N", "180", "days in which a new customer may come back"},
                                      &Options::follow, 2, 36'500),
      analysis::whole_option<Options>(
          {"at-least", "N", "20", "customers of an entry product before it is compared"}, &Options::at_least,
          1, 1'000'000'000)};
}

}  // namespace

analysis::Question question() {
  return {
      "first",
      "what each customer bought first, and whether they came back",
      "For each customer: the first order with its products and amount, the second order and the days\n"
      "to it, and the number and amount of all orders. New customers by month. For each product of first\n"
      "orders: how many customers began with it, how many of these came back, and what they brought.",
      {"pear-thread first shop.daybook", "pear-thread first shop.daybook --with customer_name,region",
       "pear-thread first --per product --by region",
       "pear-thread first --per category --follow 90 --where \"channel = 'shop'\""},
      analysis::infos(first_options()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, analysis::read_options(first_options(), values));
        analysis::PreparedQuestion prepared;
        prepared.columns = {std::string(daybook::role::kCustomerId), std::string(daybook::role::kOrderId),
                            std::string(daybook::role::kProductId),  std::string(daybook::role::kOrderDate),
                            std::string(daybook::role::kIsReturn),   std::string(daybook::role::kAmount)};
        prepared.where_there = {"product_name"};
        if (options.per) {
          prepared.where_there.emplace_back(daybook::role::kQuantity);
          prepared.where_there.emplace_back(daybook::role::kUnitPrice);
          prepared.trees.push_back({"per", *options.per, {}});
        }
        for (const expression::Tree& tree : options.by) prepared.trees.push_back({"by", tree, {}});
        for (const expression::Tree& tree : options.with) prepared.trees.push_back({"with", tree, {}});
        prepared.ask = [options](const analysis::QuestionInput& asked) { return ask(asked, options); };
        return prepared;
      }};
}

}  // namespace pear::first
