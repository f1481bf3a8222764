#include "questions/lookup/customer.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/customer_history.hpp"
#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/purchases.hpp"
#include "statistics/quantile.hpp"

namespace pear::lookup {
namespace {

/// Amounts of one order.
struct OrderAmounts {
  std::int64_t day = 0, again = 0, first_time = 0;
};

/// Amounts of orders at their dates, split by what was new to the customer.
result::Figure timeline(const daybook::Daybook& daybook, const analysis::CustomerHistory& history) {
  std::vector<OrderAmounts> rows;
  std::uint32_t order = daybook::kNoMember;
  for (const analysis::HistoryLine& line : history.lines) {
    if (line.place.order != order) rows.push_back({daybook.date_of_order(line.place.order).days});
    order = line.place.order;
    const bool is_new = line.kind == analysis::LineKind::first_time;
    (is_new ? rows.back().first_time : rows.back().again) += daybook.amounts()[line.place.line];
  }
  result::Figure figure;
  analysis::TableBuilder builder(figure.marks, rows);
  builder.date("order_date", "Date of the order.", [](const OrderAmounts& row) { return row.day; });
  builder.money("bought before", "Amount.", [](const OrderAmounts& row) { return row.again; });
  builder.money("new to the customer", "Amount.", [](const OrderAmounts& row) { return row.first_time; });
  figure.chart =
      result::Timeline{"order_date", {"bought before", "new to the customer"}, "amount of the order"};
  return figure;
}

std::string median_days(const analysis::CustomerHistory& history) {
  std::vector<std::int64_t> days = history.days;
  const auto median = statistics::quantile_of(days, statistics::kHalf);
  return median ? counted(static_cast<std::uint64_t>(*median), "day") : "";
}

std::vector<std::string> headline(const analysis::QuestionInput& input,
                                  const analysis::CustomerHistory& history) {
  const daybook::Daybook& daybook = input.daybook;
  const std::string who = analysis::member_title(daybook, daybook::Level::customer, history.customer);
  if (history.orders.empty())
    return {fmt::format("{} has returns but no order: {}.", who,
                        analysis::money_text(history.amount, input.currency))};
  const Date first = daybook.date_of_order(history.orders.front()),
             last = daybook.date_of_order(history.orders.back());
  const std::string when = first == last ? fmt::format("on {}", to_text(first))
                                         : fmt::format("from {} to {}", to_text(first), to_text(last));
  std::vector<std::string> sentences = {fmt::format(
      "{}: {} {}, {}, {}.", who, counted(history.orders.size(), "order"), when,
      counted(history.products, "distinct product"), analysis::money_text(history.amount, input.currency))};
  const std::string since = fmt::format(
      "The last order was {} before the end of the data",
      counted(static_cast<std::uint64_t>(std::max(0, days_between(last, input.data_end))), "day"));
  sentences.push_back(history.days.empty()
                          ? since + "."
                          : fmt::format("{}; the median between orders is {}.", since, median_days(history)));
  return sentences;
}

/// The customer's rank among all.
void add_rank(const analysis::QuestionInput& input, const analysis::CustomerHistory& history,
              analysis::AboutTable& about) {
  const daybook::Daybook& daybook = input.daybook;
  const daybook::Purchases purchases(daybook);
  const auto orders = daybook::by_customer<std::uint32_t>(daybook, [&](std::uint32_t customer) {
    const daybook::Run run = daybook.orders_of(customer);
    std::uint32_t count = 0;
    for (std::uint32_t order = run.begin; order < run.end; ++order)
      count += purchases.is_order(order) ? 1U : 0U;
    return count;
  });
  const auto amounts = daybook::by_customer<double>(daybook, [&](std::uint32_t customer) {
    DecimalSum sum;
    const daybook::Run lines = daybook::lines_of_customer(daybook, customer);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line)
      sum.add(Decimal::from_units(daybook.amounts()[line]));
    return sum.approximate();
  });
  const auto own_orders = static_cast<std::uint32_t>(history.orders.size());
  const auto as_many = static_cast<std::uint64_t>(
      std::count_if(orders.begin(), orders.end(), [&](std::uint32_t each) { return each >= own_orders; }));
  const auto more = std::count_if(amounts.begin(), amounts.end(),
                                  [&](double each) { return each > amounts[history.customer]; });
  const std::string customers = counted(input.population.customers, "customer");
  about.add("as many orders or more",
            fmt::format("{} of {} ({})", with_thousands(static_cast<std::int64_t>(as_many)), customers,
                        analysis::per_cent(as_many, input.population.customers)));
  about.add("rank by amount", fmt::format("{} of {}", with_thousands(more + 1), customers));
}

result::Table about_table(const analysis::QuestionInput& input, const analysis::CustomerHistory& history) {
  analysis::AboutTable about(input.daybook, daybook::Level::customer, history.customer);
  const auto date = [&](std::uint32_t order) { return to_text(input.daybook.date_of_order(order)); };
  about.add("first order", history.orders.empty() ? "" : date(history.orders.front()));
  about.add("last order", history.orders.empty() ? "" : date(history.orders.back()));
  about.add("orders", with_thousands(static_cast<std::int64_t>(history.orders.size())));
  about.add("days between orders, median", median_days(history));
  about.add("distinct products", with_thousands(std::int64_t{history.products}));
  about.add("lines", with_thousands(static_cast<std::int64_t>(history.lines.size())));
  about.add("returned lines",
            history.returned_lines == 0
                ? "0"
                : fmt::format("{}, {}", with_thousands(std::int64_t{history.returned_lines}),
                              analysis::money_text(history.returned, input.currency)));
  about.add("amount", analysis::money_text(history.amount, input.currency));
  add_rank(input, history, about);
  return std::move(about).take();
}

/// All who match a text, one row each.
result::Result several_customers(const analysis::QuestionInput& input,
                                 const std::vector<std::uint32_t>& customers, const std::string& text) {
  const daybook::Daybook& daybook = input.daybook;
  result::Result result;
  result::Table table{"", fmt::format("Customers that match {}", in_quotes(text)),
                      "One row for each customer.",
                      analysis::attribute_columns(daybook, daybook::Level::customer, customers)};
  std::vector<analysis::CustomerHistory> histories;
  std::vector<std::string> ids;
  for (const std::uint32_t customer : customers) {
    histories.push_back(analysis::history_of(daybook, customer));
    ids.emplace_back(daybook.customer_ids()[customer]);
  }
  using Row = analysis::CustomerHistory;
  const auto date = [&](std::uint32_t order) { return std::int64_t{daybook.date_of_order(order).days}; };
  analysis::TableBuilder builder(table, histories);
  builder.count("orders", "Number of orders.", [](const Row& row) { return row.orders.size(); });
  builder.count("products", "Distinct products that the customer bought.",
                [](const Row& row) { return row.products; });
  builder.date("first_date", "Date of the first order.", [&](const Row& row) {
    return row.orders.empty() ? result::kEmptyCell : date(row.orders.front());
  });
  builder.date("last_date", "Date of the last order.", [&](const Row& row) {
    return row.orders.empty() ? result::kEmptyCell : date(row.orders.back());
  });
  builder.money("amount", "Amount, net of returns.",
                [](const Row& row) { return row.amount.total().value_or(Decimal()).units(); });
  result.headline = {fmt::format("{} customers match {}: {}.", customers.size(), in_quotes(text),
                                 analysis::titles_of(daybook, daybook::Level::customer, customers)),
                     fmt::format("Use the id of one: pear-thread customer {}", ids.front())};
  result.checks.push_back(
      {"each of them has an id of its own", std::adjacent_find(ids.begin(), ids.end()) == ids.end()});
  result.tables = {std::move(table)};
  return result;
}

result::Result one_customer(const analysis::QuestionInput& input, std::uint32_t customer) {
  const daybook::Daybook& daybook = input.daybook;
  const analysis::CustomerHistory history = analysis::history_of(daybook, customer);
  result::Result result;
  result.headline = headline(input, history);
  result.tables = {analysis::history_table(daybook, history), about_table(input, history)};
  DecimalSum all;
  const daybook::Run lines = daybook::lines_of_customer(daybook, customer);
  for (std::uint32_t line = lines.begin; line < lines.end; ++line)
    all.add(Decimal::from_units(daybook.amounts()[line]));
  result.checks.push_back(
      {"every line of the customer is in the history", history.lines.size() == lines.size()});
  result.checks.push_back(
      {fmt::format("their amounts add up to {}", analysis::money_text(all, input.currency)),
       all == history.amount});
  result::Figure figure = timeline(daybook, history);
  figure.title = result.headline.front();
  figure.subtitle = fmt::format("Amount of each order at its date{}",
                                history.returned_lines > 0 ? "; returns are drawn below the line" : "");
  result.figures = {std::move(figure)};
  return result;
}

}  // namespace

OrError<result::Result> ask_customer(const analysis::QuestionInput& input,
                                     const analysis::MemberOptions& options) {
  PEAR_ASSIGN(const std::vector<std::uint32_t> customers,
              analysis::find_members(input.daybook, daybook::Level::customer, options.find));
  result::Result result = customers.size() == 1 ? one_customer(input, customers.front())
                                                : several_customers(input, customers, options.find);
  result.question = "customer";
  result.definitions = {
      {"new", "the customer had not bought the product in an earlier order of the selection"},
      {"amount", "of all lines, net of returns"}};
  return result;
}

analysis::Question customer_question() {
  return {"customer",
          "one customer's history, to check any figure against",
          "Everything that one customer bought, order by order: the days since the previous order, which "
          "products\nwere new to the customer, amounts and their running total, returns; the customer's "
          "attributes; a\ntimeline. A part of a name lists all who match.",
          {"pear-thread customer C101 shop.daybook", "pear-thread customer C101 --from 2024-01-01",
           "pear-thread customer \"ada fen\" shop.daybook"},
          analysis::infos(analysis::member_options(daybook::Level::customer)),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const analysis::MemberOptions options,
                        analysis::read_member(daybook::Level::customer, values));
            return analysis::prepared_for_member(daybook::Level::customer, options, ask_customer);
          },
          "find",
          40};
}

}  // namespace pear::lookup
