#include "question/first.hpp"

#include <algorithm>
#include <map>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "base/decimal.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "question/fold.hpp"

namespace pear {
namespace {

/// The rows of a run of customers, column by column, and what the headline and the checks need.
struct FirstRows {
  TextArray customer_ids, order_ids, products;
  std::vector<std::int64_t> first_dates, sizes, first_amounts, second_dates, days_to_second, orders, amounts;
  std::map<Month, std::int64_t> new_customers;
  DecimalSum amount_of_rows, amount_of_others;
  std::uint64_t without_order = 0;
  bool too_large = false;
};

template <class T>
void append(std::vector<T>& to, const std::vector<T>& from) {
  to.insert(to.end(), from.begin(), from.end());
}

void merge(FirstRows& earlier, const FirstRows& later) {
  earlier.customer_ids.append(later.customer_ids);
  earlier.order_ids.append(later.order_ids);
  earlier.products.append(later.products);
  append(earlier.first_dates, later.first_dates);
  append(earlier.sizes, later.sizes);
  append(earlier.first_amounts, later.first_amounts);
  append(earlier.second_dates, later.second_dates);
  append(earlier.days_to_second, later.days_to_second);
  append(earlier.orders, later.orders);
  append(earlier.amounts, later.amounts);
  for (const auto& [month, customers] : later.new_customers) earlier.new_customers[month] += customers;
  earlier.amount_of_rows.add(later.amount_of_rows);
  earlier.amount_of_others.add(later.amount_of_others);
  earlier.without_order += later.without_order;
  earlier.too_large |= later.too_large;
}

/// Makes the row of one customer.
class FirstFinder {
 public:
  explicit FirstFinder(const Daybook& daybook)
      : daybook_(daybook),
        purchases_(daybook),
        amounts_(daybook.amounts()),
        line_products_(daybook.line_products()),
        customer_ids_(daybook.customer_ids()),
        product_ids_(daybook.product_ids()),
        order_ids_(daybook.order_ids()) {}

  void absorb(FirstRows& rows, std::uint32_t customer) const {
    const Run run = daybook_.orders_of(customer);
    const std::uint32_t first = next_order(run.begin, run.end);
    const DecimalSum amount = amount_of(run);
    if (first == run.end) {
      ++rows.without_order;
      rows.amount_of_others.add(amount);
      return;
    }
    const std::uint32_t second = next_order(first + 1, run.end);
    std::int64_t orders = 1;
    for (std::uint32_t order = second; order < run.end; order = next_order(order + 1, run.end)) ++orders;

    const Date first_date = daybook_.date_of_order(first);
    rows.customer_ids.push_back(customer_ids_[customer]);
    rows.first_dates.push_back(first_date.days);
    rows.order_ids.push_back(order_ids_[first]);
    add_products(rows, first);
    rows.first_amounts.push_back(units(amount_of({first, first + 1}), rows));
    rows.second_dates.push_back(second < run.end ? daybook_.date_of_order(second).days : kEmptyCell);
    rows.days_to_second.push_back(second < run.end ? days_between(first_date, daybook_.date_of_order(second))
                                                   : kEmptyCell);
    rows.orders.push_back(orders);
    rows.amounts.push_back(units(amount, rows));
    rows.amount_of_rows.add(amount);
    ++rows.new_customers[month_of(first_date)];
  }

 private:
  [[nodiscard]] std::uint32_t next_order(std::uint32_t order, std::uint32_t end) const {
    while (order < end && !purchases_.is_order(order)) ++order;
    return order;
  }

  [[nodiscard]] DecimalSum amount_of(Run orders) const {
    DecimalSum sum;
    const std::uint32_t end = daybook_.lines_of(orders.end - 1).end;
    for (std::uint32_t line = daybook_.lines_of(orders.begin).begin; line < end; ++line)
      sum.add(Decimal::from_units(amounts_[line]));
    return sum;
  }

  static std::int64_t units(const DecimalSum& sum, FirstRows& rows) {
    const auto total = sum.total();
    rows.too_large |= !total;
    return total.value_or(Decimal()).units();
  }

  /// Lines of an order stand in order of product, so equal products are neighbours.
  void add_products(FirstRows& rows, std::uint32_t order) const {
    const Run lines = daybook_.lines_of(order);
    std::string names;
    std::int64_t size = 0;
    std::uint32_t previous = 0;
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      const std::uint32_t product = line_products_[line];
      if (purchases_.is_return(line) || (size > 0 && product == previous)) continue;
      if (size > 0) names += " + ";
      names += product_ids_[product];
      previous = product;
      ++size;
    }
    rows.products.push_back(names);
    rows.sizes.push_back(size);
  }

  const Daybook& daybook_;
  Purchases purchases_;
  std::span<const std::int64_t> amounts_;
  std::span<const std::uint32_t> line_products_;
  const TextArray& customer_ids_;
  const TextArray& product_ids_;
  const TextArray& order_ids_;
};

Table table_of(FirstRows& rows) {
  Table table{"", "First purchases", "One row for each customer who placed an order.", {}};
  auto& columns = table.columns;
  columns.push_back(text_column("customer_id", "The customer.", std::move(rows.customer_ids)));
  columns.push_back(integer_column("first_date", Unit::date, "Date of the customer's first order.",
                                   std::move(rows.first_dates)));
  columns.push_back(text_column("first_order_id", "Id of the first order.", std::move(rows.order_ids)));
  columns.push_back(
      text_column("first_products",
                  "Ids of the products of the first order, each once, in natural order, joined by \" + \".",
                  std::move(rows.products)));
  columns.push_back(integer_column(
      "first_size", Unit::count, "Number of different products in the first order.", std::move(rows.sizes)));
  columns.push_back(integer_column("first_amount", Unit::money, "Amount of the first order.",
                                   std::move(rows.first_amounts)));
  columns.push_back(integer_column("second_date", Unit::date,
                                   "Date of the second order; empty where there is none.",
                                   std::move(rows.second_dates)));
  columns.push_back(integer_column("days_to_second", Unit::days,
                                   "Days from the first order to the second; empty where there is none.",
                                   std::move(rows.days_to_second)));
  columns.push_back(
      integer_column("orders", Unit::count, "Number of orders in all.", std::move(rows.orders)));
  columns.push_back(
      integer_column("amount", Unit::money, "Amount of all lines of the customer.", std::move(rows.amounts)));
  return table;
}

/// The months from the first to the last, those without new customers included.
Figure new_customers_by_month(const std::map<Month, std::int64_t>& new_customers) {
  TextArray labels;
  std::vector<std::int64_t> customers;
  Figure figure;
  std::int64_t most = 0;
  std::string best_month;
  for (Month month = new_customers.begin()->first; month <= new_customers.rbegin()->first; ++month.index) {
    const auto found = new_customers.find(month);
    customers.push_back(found == new_customers.end() ? 0 : found->second);
    labels.push_back(to_text(month));
    if (customers.back() <= most) continue;
    most = customers.back();
    best_month = to_text(month);
    figure.noticed = {customers.size() - 1};
  }
  figure.title = fmt::format("More customers began in {} than in any other month: {}.", best_month,
                             with_thousands(most));
  figure.marks.columns = {
      text_column("month", "Month.", std::move(labels)),
      integer_column("new_customers", Unit::count, "Customers whose first order is of that month.",
                     std::move(customers))};
  figure.axis = Figure::Axis::months;
  figure.value_title = "new customers";
  return figure;
}

/// The lower median: at least half of the customers who came back did so within so many days.
std::int64_t median_days(const TableColumn& days_to_second) {
  std::vector<std::int64_t> days;
  for (std::size_t row = 0; row < days_to_second.size(); ++row) {
    if (!days_to_second.is_empty(row)) days.push_back(days_to_second.integer(row));
  }
  const auto middle = days.begin() + static_cast<std::ptrdiff_t>((days.size() - 1) / 2);
  std::nth_element(days.begin(), middle, days.end());
  return *middle;
}

std::string headline(const Table& table) {
  const TableColumn& orders = table.columns[8];
  std::uint64_t came_back = 0;
  for (std::size_t row = 0; row < table.rows(); ++row) came_back += orders.integer(row) > 1 ? 1U : 0U;
  const std::string again =
      came_back == 0 ? "none of them ordered again"
                     : fmt::format("{} of them ({:.1f}%) ordered again, half of these within {}",
                                   with_thousands(static_cast<std::int64_t>(came_back)),
                                   100.0 * static_cast<double>(came_back) / static_cast<double>(table.rows()),
                                   counted(static_cast<std::uint64_t>(median_days(table.columns[7])), "day"));
  return fmt::format("{} placed a first order; {}.", counted(table.rows(), "customer"), again);
}

/// The amount of all lines, summed without regard to customers and orders.
DecimalSum amount_of_all(const Daybook& daybook) {
  DecimalSum sum;
  for (const std::int64_t amount : daybook.amounts()) sum.add(Decimal::from_units(amount));
  return sum;
}

void add_checks(const Daybook& daybook, const FirstRows& rows, Result& result) {
  const Table& table = result.tables.front();
  const TableColumn& orders = table.columns[8];
  std::uint64_t order_total = 0;
  for (std::size_t row = 0; row < orders.size(); ++row)
    order_total += static_cast<std::uint64_t>(orders.integer(row));
  DecimalSum amounts = rows.amount_of_rows;
  amounts.add(rows.amount_of_others);
  const DecimalSum all = amount_of_all(daybook);
  result.checks.push_back({fmt::format("the rows and the customers without order add up to all {}",
                                       counted(result.population.customers, "customer")),
                           table.rows() + rows.without_order == result.population.customers});
  result.checks.push_back({fmt::format("orders add up to all {}", counted(result.population.orders, "order")),
                           order_total == result.population.orders});
  result.checks.push_back(
      {fmt::format("amounts add up to the total of all lines, {}",
                   all.total() ? with_thousands(*all.total()) : fmt::format("{:.0f}", all.approximate())),
       amounts == all});
}

}  // namespace

OrError<Result> ask_first(const Asked& asked) {
  const Daybook& daybook = asked.daybook;
  const FirstFinder finder(daybook);
  FirstRows rows = fold_customers(
      daybook, [] { return FirstRows{}; },
      [&](FirstRows& state, std::uint32_t customer) { finder.absorb(state, customer); }, merge);
  if (rows.too_large)
    return data_error(
        "the amounts of one customer add up to more than 922,337,203,685,477. Look for wrong prices.");

  Result result;
  result.question = "first";
  result.population = asked.population;
  result.definitions = {
      {"first order",
       "the earliest by date, time of day and order id with at least one line that is not a return"},
      {"amounts", "of all lines of the selection, returns taken off"}};
  result.tables.push_back(table_of(rows));
  add_checks(daybook, rows, result);
  if (rows.without_order > 0)
    result.notes.push_back(
        fmt::format("{} left out: they have returns and no order.", counted(rows.without_order, "customer")));
  if (rows.new_customers.empty()) {
    result.headline = {"No customer placed an order."};
    return result;
  }
  result.notes.push_back(fmt::format(
      "{} on {}; whoever bought before that day counts as new at the first order since.",
      asked.whole ? "What is selected begins" : "The data begins", to_text(*result.population.first_date)));
  result.figures.push_back(new_customers_by_month(rows.new_customers));
  result.figures.back().subtitle = fmt::format("Customers by the month of their first order; {}",
                                               counted(result.tables.front().rows(), "customer"));
  result.headline = {headline(result.tables.front()), result.figures.back().title};
  return result;
}

Question first_question() {
  return {"first",
          "what each customer bought first, and whether they came back",
          "For each customer: the first order with its products and amount, the second order and the days\n"
          "to it, and the number and amount of all orders. The figure shows new customers by month.",
          {"pear-thread first shop.daybook", "pear-thread first shop.daybook --where \"channel = 'shop'\"",
           "pear-thread first shop.daybook --top 20 --out tables"},
          {},
          [](const OptionValues& /*values*/) -> OrError<PreparedQuestion> {
            return PreparedQuestion{
                {std::string(role::kCustomerId), std::string(role::kOrderId), std::string(role::kProductId),
                 std::string(role::kOrderDate), std::string(role::kIsReturn), std::string(role::kAmount)},
                {},
                ask_first};
          }};
}

}  // namespace pear
