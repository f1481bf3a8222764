#include "question/first_tables.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "question/member_column.hpp"
#include "question/nouns.hpp"
#include "question/texts_of.hpp"

namespace pear {
namespace {

/// "P11 + P31", and how many. Lines of an order stand in order of product, so equal products are neighbours.
std::int64_t append_products(const Daybook& daybook, const Purchases& purchases, std::uint32_t order,
                             std::string& names) {
  const auto& products = daybook.line_products();
  const TextArray& ids = daybook.product_ids();
  const Run lines = daybook.lines_of(order);
  std::int64_t size = 0;
  std::uint32_t previous = 0;
  for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
    const std::uint32_t product = products[line];
    if (purchases.is_return(line) || (size > 0 && product == previous)) continue;
    if (size > 0) names += " + ";
    names += ids[product];
    previous = product;
    ++size;
  }
  return size;
}

/// The products of first orders as one text each, and their number.
struct FirstProducts {
  TextArray names;
  std::vector<std::int64_t> sizes;
};

FirstProducts first_products(const Daybook& daybook, const std::vector<Beginning>& beginnings,
                             const std::vector<std::uint32_t>& customers) {
  const Purchases purchases(daybook);
  FirstProducts all;
  all.sizes.resize(customers.size());
  all.names = texts_of(customers.size(), [&](std::size_t row, std::string& text) {
    all.sizes[row] = append_products(daybook, purchases, beginnings[customers[row]].first, text);
  });
  return all;
}

/// A column of whole numbers, worked out for each of the customers.
template <class Of>
TableColumn worked_out(std::string name, Unit unit, std::string description,
                       const std::vector<Beginning>& beginnings, const std::vector<std::uint32_t>& customers,
                       Of of) {
  std::vector<std::int64_t> values(customers.size());
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, values.size(), 16'384), [&](const auto& run) {
    for (std::size_t row = run.begin(); row != run.end(); ++row) values[row] = of(beginnings[customers[row]]);
  });
  return integer_column(std::move(name), unit, std::move(description), std::move(values));
}

}  // namespace

std::vector<std::uint32_t> customers_with_order(const std::vector<Beginning>& beginnings) {
  std::vector<std::uint32_t> customers;
  customers.reserve(beginnings.size());
  for (std::uint32_t customer = 0; customer < beginnings.size(); ++customer)
    if (beginnings[customer].has_order()) customers.push_back(customer);
  return customers;
}

OrError<Table> first_table(const LineView& lines, const std::vector<Beginning>& beginnings,
                           const FirstOptions& options) {
  const Daybook& daybook = lines.daybook();
  const std::vector<std::uint32_t> customers = customers_with_order(beginnings);
  const auto day = [&](std::uint32_t order) -> std::int64_t {
    return order == kNoMember ? kEmptyCell : daybook.date_of_order(order).days;
  };
  const auto column = [&](std::string name, Unit unit, std::string description, auto of) {
    return worked_out(std::move(name), unit, std::move(description), beginnings, customers, of);
  };
  Table table{"", "First purchases", "One row for each customer who placed an order.", {}};
  auto& columns = table.columns;
  columns.push_back(id_column("customer_id", "The customer.", daybook.customer_ids(), customers));
  PEAR_ASSIGN(std::vector<TableColumn> with, customer_columns(options.with, customers, lines));
  std::move(with.begin(), with.end(), std::back_inserter(columns));
  columns.push_back(column("first_date", Unit::date, "Date of the customer's first order.",
                           [&](const Beginning& each) { return day(each.first); }));
  TextArray first_ids = texts_of(customers.size(), [&](std::size_t row, std::string& text) {
    text += daybook.order_ids()[beginnings[customers[row]].first];
  });
  columns.push_back(text_column("first_order_id", "Id of the first order.", std::move(first_ids)));
  FirstProducts products = first_products(daybook, beginnings, customers);
  columns.push_back(
      text_column("first_products",
                  "Ids of the products of the first order, each once, in natural order, joined by \" + \".",
                  std::move(products.names)));
  columns.push_back(integer_column("first_size", Unit::count,
                                   "Number of different products in the first order.",
                                   std::move(products.sizes)));
  columns.push_back(column("first_amount", Unit::money, "Amount of the first order.",
                           [](const Beginning& each) { return each.first_amount; }));
  columns.push_back(column("second_date", Unit::date, "Date of the second order; empty where there is none.",
                           [&](const Beginning& each) { return day(each.second); }));
  columns.push_back(column(
      "days_to_second", Unit::days, "Days from the first order to the second; empty where there is none.",
      [&](const Beginning& each) {
        return each.second == kNoMember ? kEmptyCell : day(each.second) - day(each.first);
      }));
  columns.push_back(column("orders", Unit::count, "Number of orders in all.",
                           [](const Beginning& each) { return std::int64_t{each.orders}; }));
  columns.push_back(column("amount", Unit::money, "Amount of all lines of the customer.",
                           [](const Beginning& each) { return each.amount; }));
  return table;
}

std::string entry_name(const FirstOptions& options) {
  return options.per ? noun_of(options.per->name) : "product";
}

OrError<GroupKey> entry_key(const LineView& lines, const FirstOptions& options) {
  if (options.per) {
    PEAR_ASSIGN(std::vector<GroupKey> keys, keys_of("per", {*options.per}, lines));
    if (keys.front().level == Level::customer)
      return usage_error(fmt::format(
          "--per {}: it is the same in all purchases of a customer. Take a column of products, orders or "
          "lines; --by compares customers.",
          options.per->text));
    return std::move(keys.front());
  }
  return id_key(lines.daybook(), Level::product);
}

}  // namespace pear
