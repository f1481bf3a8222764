#include "questions/lookup/customer.hpp"

#include <algorithm>
#include <utility>

#include <absl/container/flat_hash_set.h>
#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "statistics/quantile.hpp"

namespace pear::lookup {
namespace {

/// What one line was to the customer.
enum class Kind : std::uint8_t { first_time, again, returned };

struct HistoryLine {
  daybook::LinePlace place;
  Kind kind = Kind::again;
};

/// One customer's lines, and what they come to.
struct History {
  std::uint32_t customer = 0;
  std::vector<HistoryLine> lines;
  std::vector<std::uint32_t> orders;  ///< those that are orders
  std::vector<std::int64_t> days;     ///< between one of them and the next
  std::uint32_t products = 0;         ///< different ones that were bought
  std::uint32_t returned_lines = 0;
  DecimalSum amount, returned;
};

History history_of(const daybook::Daybook& daybook, std::uint32_t customer) {
  History history;
  history.customer = customer;
  const daybook::Purchases purchases(daybook);
  absl::flat_hash_set<std::uint32_t> bought,
      bought_before;  // lines of one order are no repeat of one another
  std::uint32_t order = expression::kNoMember;
  daybook::walk_lines(daybook, {customer, customer + 1}, [&](const daybook::LinePlace& place) {
    if (place.order != order) bought_before = bought;
    order = place.order;
    const Decimal amount = Decimal::from_units(daybook.amounts()[place.line]);
    history.amount.add(amount);
    if (purchases.is_return(place.line)) {
      ++history.returned_lines;
      history.returned.add(amount);
      history.lines.push_back({place, Kind::returned});
      return;
    }
    bought.insert(place.product);
    history.lines.push_back({place, bought_before.contains(place.product) ? Kind::again : Kind::first_time});
  });
  history.products = static_cast<std::uint32_t>(bought.size());
  const daybook::Run run = daybook.orders_of(customer);
  for (std::uint32_t each = run.begin; each < run.end; ++each) {
    if (!purchases.is_order(each)) continue;
    if (!history.orders.empty())
      history.days.push_back(
          days_between(daybook.date_of_order(history.orders.back()), daybook.date_of_order(each)));
    history.orders.push_back(each);
  }
  return history;
}

/// A column of the lines, empty where the daybook does not have it.
result::TableColumn line_column(const daybook::Daybook& daybook, std::string_view name, result::Unit unit,
                                std::string description, const std::vector<std::uint32_t>& lines) {
  const daybook::Column* column = daybook.find(name);
  if (column == nullptr || column->level != daybook::Level::line)
    return result::integer_column(std::string(name), unit, std::move(description),
                                  std::vector<std::int64_t>(lines.size(), result::kEmptyCell));
  result::TableColumn result =
      analysis::member_column(std::string(name), std::move(description), column->values, lines);
  result.unit = unit;
  return result;
}

/// Short headings, so that a whole line fits a terminal; days are told once an order.
void name_for_terminal(std::vector<result::TableColumn>& columns) {
  for (result::TableColumn& column : columns) {
    column.heading = column.name == "order_date"                ? "date"
                     : column.name == "order_id"                ? "order"
                     : column.name == "days_since"              ? "days"
                     : column.name == "product_id"              ? "product"
                     : column.name == "product_name"            ? "name"
                     : column.name == daybook::role::kQuantity  ? "pieces"
                     : column.name == daybook::role::kUnitPrice ? "price"
                     : column.name == "running_amount"          ? "running"
                                                                : "";
    if (column.name == "days_since") column.always_shown = true;
  }
}

result::Table history_table(const daybook::Daybook& daybook, const History& history) {
  std::vector<std::uint32_t> lines, orders, products;
  std::vector<std::int64_t> dates, days, running;
  TextArray kinds;
  DecimalSum so_far;
  const auto next = [&](std::uint32_t order) {
    return std::find(history.orders.begin(), history.orders.end(), order);
  };
  for (const HistoryLine& line : history.lines) {
    const auto place = next(line.place.order);
    const bool has_days = place != history.orders.end() && place != history.orders.begin();
    days.push_back(has_days ? history.days[static_cast<std::size_t>(place - history.orders.begin()) - 1]
                            : result::kEmptyCell);
    lines.push_back(line.place.line);
    orders.push_back(line.place.order);
    products.push_back(line.place.product);
    dates.push_back(daybook.date_of_order(line.place.order).days);
    kinds.push_back(line.kind == Kind::first_time ? "new" : line.kind == Kind::again ? "again" : "return");
    so_far.add(Decimal::from_units(daybook.amounts()[line.place.line]));
    running.push_back(so_far.total().value_or(Decimal()).units());
  }
  result::Table table{"", "History", "One row for each line, in order of time.", {}};
  auto& columns = table.columns;
  columns.push_back(
      result::integer_column("order_date", result::Unit::date, "Date of the order.", std::move(dates)));
  columns.push_back(result::text_column("order_id", "The order.", daybook.order_ids().picked(orders)));
  columns[0].always_shown = columns[1].always_shown = true;
  columns.push_back(result::integer_column("days_since", result::Unit::days, "Days since the order before.",
                                           std::move(days)));
  const expression::GroupKey key = analysis::id_key(daybook, daybook::Level::product);
  columns.push_back(analysis::key_column("product_id", "The product.", key, products));
  columns.back().always_shown = false;
  analysis::add_names(daybook, key, products, columns);
  columns.push_back(result::text_column(
      "kind", "new: the customer had not bought this product before; again; or return.", std::move(kinds)));
  columns.push_back(line_column(daybook, daybook::role::kQuantity, result::Unit::number,
                                "Pieces; negative where they came back.", lines));
  columns.push_back(
      line_column(daybook, daybook::role::kUnitPrice, result::Unit::money, "Price of a piece.", lines));
  columns.push_back(
      line_column(daybook, daybook::role::kAmount, result::Unit::money, "Amount of the line.", lines));
  columns.push_back(result::integer_column("running_amount", result::Unit::money,
                                           "Amount of this line and all before it.", std::move(running)));
  name_for_terminal(columns);
  return table;
}

/// Amounts of orders at their dates, parted by what was new to the customer.
result::Figure timeline(const daybook::Daybook& daybook, const History& history) {
  std::vector<std::int64_t> dates, again, first_time;
  std::uint32_t order = expression::kNoMember;
  for (const HistoryLine& line : history.lines) {
    if (line.place.order != order) {
      dates.push_back(daybook.date_of_order(line.place.order).days);
      again.push_back(0);
      first_time.push_back(0);
    }
    order = line.place.order;
    (line.kind == Kind::first_time ? first_time : again).back() += daybook.amounts()[line.place.line];
  }
  result::Figure figure;
  figure.kind = result::Figure::Kind::timeline;
  figure.marks.columns = {
      result::integer_column("order_date", result::Unit::date, "Date of the order.", std::move(dates)),
      result::integer_column("bought before", result::Unit::money, "Amount.", std::move(again)),
      result::integer_column("new to the customer", result::Unit::money, "Amount.", std::move(first_time))};
  figure.values = {1, 2};
  figure.value_title = "amount of the order";
  return figure;
}

std::string median_days(const History& history) {
  std::vector<std::int64_t> days = history.days;
  const auto median = statistics::quantile_of(days, statistics::kHalf);
  return median ? counted(static_cast<std::uint64_t>(*median), "day") : "";
}

std::vector<std::string> headline(const analysis::QuestionInput& asked, const History& history) {
  const daybook::Daybook& daybook = asked.daybook;
  const std::string who = analysis::member_title(daybook, daybook::Level::customer, history.customer);
  if (history.orders.empty())
    return {fmt::format("{} has returns and no order: {}.", who,
                        analysis::money_text(history.amount, asked.currency))};
  const Date first = daybook.date_of_order(history.orders.front()),
             last = daybook.date_of_order(history.orders.back());
  const std::string when = first == last ? fmt::format("on {}", to_text(first))
                                         : fmt::format("from {} to {}", to_text(first), to_text(last));
  std::vector<std::string> sentences = {fmt::format(
      "{}: {} {}, {}, {}.", who, counted(history.orders.size(), "order"), when,
      counted(history.products, "different product"), analysis::money_text(history.amount, asked.currency))};
  const std::string since = fmt::format(
      "The last order was {} before the data ends",
      counted(static_cast<std::uint64_t>(std::max(0, days_between(last, asked.data_end))), "day"));
  sentences.push_back(history.days.empty()
                          ? since + "."
                          : fmt::format("{}; the median between orders is {}.", since, median_days(history)));
  return sentences;
}

/// Where the customer stands among all.
void add_standing(const analysis::QuestionInput& asked, const History& history, analysis::AboutTable& about) {
  const daybook::Daybook& daybook = asked.daybook;
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
  const std::string customers = counted(asked.population.customers, "customer");
  about.add("as many orders or more",
            fmt::format("{} of {} ({})", with_thousands(static_cast<std::int64_t>(as_many)), customers,
                        analysis::per_cent(as_many, asked.population.customers)));
  about.add("place by amount", fmt::format("{} of {}", with_thousands(more + 1), customers));
}

result::Table about_table(const analysis::QuestionInput& asked, const History& history) {
  analysis::AboutTable about(asked.daybook, daybook::Level::customer, history.customer);
  const auto date = [&](std::uint32_t order) { return to_text(asked.daybook.date_of_order(order)); };
  about.add("first order", history.orders.empty() ? "" : date(history.orders.front()));
  about.add("last order", history.orders.empty() ? "" : date(history.orders.back()));
  about.add("orders", with_thousands(static_cast<std::int64_t>(history.orders.size())));
  about.add("days between orders, median", median_days(history));
  about.add("different products", with_thousands(std::int64_t{history.products}));
  about.add("lines", with_thousands(static_cast<std::int64_t>(history.lines.size())));
  about.add("returned lines",
            history.returned_lines == 0
                ? "0"
                : fmt::format("{}, {}", with_thousands(std::int64_t{history.returned_lines}),
                              analysis::money_text(history.returned, asked.currency)));
  about.add("amount", analysis::money_text(history.amount, asked.currency));
  add_standing(asked, history, about);
  return std::move(about).take();
}

/// All who share a name, one row each.
result::Result several_customers(const analysis::QuestionInput& asked,
                                 const std::vector<std::uint32_t>& customers, const std::string& name) {
  const daybook::Daybook& daybook = asked.daybook;
  result::Result result;
  result::Table table{"", fmt::format("Customers named {}", name), "One row for each customer.",
                      analysis::attribute_columns(daybook, daybook::Level::customer, customers)};
  std::vector<std::int64_t> orders, products, first, last, amounts;
  std::vector<std::string> ids;
  for (const std::uint32_t customer : customers) {
    const History history = history_of(daybook, customer);
    ids.emplace_back(daybook.customer_ids()[customer]);
    orders.push_back(static_cast<std::int64_t>(history.orders.size()));
    products.push_back(history.products);
    first.push_back(history.orders.empty() ? result::kEmptyCell
                                           : daybook.date_of_order(history.orders.front()).days);
    last.push_back(history.orders.empty() ? result::kEmptyCell
                                          : daybook.date_of_order(history.orders.back()).days);
    amounts.push_back(history.amount.total().value_or(Decimal()).units());
  }
  table.columns.push_back(
      result::integer_column("orders", result::Unit::count, "Number of orders.", std::move(orders)));
  table.columns.push_back(result::integer_column(
      "products", result::Unit::count, "Different products that the customer bought.", std::move(products)));
  table.columns.push_back(
      result::integer_column("first_date", result::Unit::date, "Date of the first order.", std::move(first)));
  table.columns.push_back(
      result::integer_column("last_date", result::Unit::date, "Date of the last order.", std::move(last)));
  table.columns.push_back(
      result::integer_column("amount", result::Unit::money, "Amount, net of returns.", std::move(amounts)));
  result.headline = {
      fmt::format("{} customers share the name {}: {}.", customers.size(), in_quotes(name), join(ids, ", ")),
      fmt::format("Ask for one by id: pear-thread customer {}", ids.front())};
  result.checks.push_back({"every one of them bears the name and has an id of its own",
                           std::adjacent_find(ids.begin(), ids.end()) == ids.end()});
  result.tables = {std::move(table)};
  return result;
}

result::Result one_customer(const analysis::QuestionInput& asked, std::uint32_t customer) {
  const daybook::Daybook& daybook = asked.daybook;
  const History history = history_of(daybook, customer);
  result::Result result;
  result.headline = headline(asked, history);
  result.tables = {history_table(daybook, history), about_table(asked, history)};
  DecimalSum all;
  const daybook::Run lines = daybook::lines_of_customer(daybook, customer);
  for (std::uint32_t line = lines.begin; line < lines.end; ++line)
    all.add(Decimal::from_units(daybook.amounts()[line]));
  result.checks.push_back(
      {"every line of the customer is in the history", history.lines.size() == lines.size()});
  result.checks.push_back(
      {fmt::format("their amounts add up to {}", analysis::money_text(all, asked.currency)),
       all == history.amount});
  result::Figure figure = timeline(daybook, history);
  figure.title = result.headline.front();
  figure.subtitle = fmt::format("Amount of each order at its date{}",
                                history.returned_lines > 0 ? "; what came back stands below the line" : "");
  result.figures = {std::move(figure)};
  return result;
}

}  // namespace

result::Table customer_history_table(const daybook::Daybook& daybook, std::uint32_t customer) {
  return history_table(daybook, history_of(daybook, customer));
}

OrError<result::Result> ask_customer(const analysis::QuestionInput& asked,
                                     const analysis::MemberOptions& options) {
  PEAR_ASSIGN(const std::vector<std::uint32_t> customers,
              analysis::find_members(asked.daybook, daybook::Level::customer, options));
  result::Result result =
      customers.size() == 1 ? one_customer(asked, customers.front())
                            : several_customers(asked, customers, options.name ? *options.name : *options.id);
  result.question = "customer";
  result.definitions = {
      {"new", "the customer had not bought the product in an earlier order of the selection"},
      {"amount", "of all lines, returns taken off"}};
  return result;
}

analysis::Question customer_question() {
  return {
      "customer",
      "one customer's history, to verify any figure by eye",
      "All that one customer bought, order by order: the days since the order before, which products were\n"
      "new to the customer, amounts and their running total, returns; what is known of the customer; a\n"
      "timeline. --name lists all who share a name.",
      {"pear-thread customer C101 shop.daybook", "pear-thread customer C101 --from 2024-01-01",
       "pear-thread customer --name \"Ada Fen\" shop.daybook"},
      analysis::infos(analysis::member_options(daybook::Level::customer)),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const analysis::MemberOptions options,
                    analysis::read_member(daybook::Level::customer, values));
        return analysis::prepared_for_member(daybook::Level::customer, options, ask_customer);
      },
      "id",
      40};
}

}  // namespace pear::lookup
