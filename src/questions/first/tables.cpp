#include "questions/first/tables.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "analysis/member_column.hpp"
#include "analysis/parallel_texts.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"

namespace pear::first {
namespace {

/// "P11 + P31", and how many. Lines of an order stand in order of product, so equal products are neighbours.
std::int64_t append_products(const daybook::Daybook& daybook, const daybook::Purchases& purchases,
                             std::uint32_t order, std::string& names) {
  const auto& products = daybook.line_products();
  const TextArray& ids = daybook.product_ids();
  const daybook::Run lines = daybook.lines_of(order);
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

FirstProducts first_products(const daybook::Daybook& daybook, const std::vector<FirstOrders>& beginnings,
                             const std::vector<std::uint32_t>& customers) {
  const daybook::Purchases purchases(daybook);
  FirstProducts all;
  all.sizes.resize(customers.size());
  all.names = analysis::parallel_texts(customers.size(), [&](std::size_t row, std::string& text) {
    all.sizes[row] = append_products(daybook, purchases, beginnings[customers[row]].first, text);
  });
  return all;
}

/// A column of whole numbers, worked out for each of the customers.
template <class Of>
result::TableColumn worked_out(std::string name, result::Unit unit, std::string description,
                               const std::vector<FirstOrders>& beginnings,
                               const std::vector<std::uint32_t>& customers, Of of) {
  std::vector<std::int64_t> values(customers.size());
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, values.size(), 16'384), [&](const auto& run) {
    for (std::size_t row = run.begin(); row != run.end(); ++row) values[row] = of(beginnings[customers[row]]);
  });
  return result::integer_column(std::move(name), unit, std::move(description), std::move(values));
}

}  // namespace

std::vector<std::uint32_t> customers_with_order(const std::vector<FirstOrders>& beginnings) {
  std::vector<std::uint32_t> customers;
  customers.reserve(beginnings.size());
  for (std::uint32_t customer = 0; customer < beginnings.size(); ++customer)
    if (beginnings[customer].has_order()) customers.push_back(customer);
  return customers;
}

OrError<result::Table> first_table(const expression::LineView& lines,
                                   const std::vector<FirstOrders>& beginnings, const Options& options) {
  const daybook::Daybook& daybook = lines.daybook();
  const std::vector<std::uint32_t> customers = customers_with_order(beginnings);
  const auto day = [&](std::uint32_t order) -> std::int64_t {
    return order == expression::kNoMember ? result::kEmptyCell : daybook.date_of_order(order).days;
  };
  const auto column = [&](std::string name, result::Unit unit, std::string description, auto of) {
    return worked_out(std::move(name), unit, std::move(description), beginnings, customers, of);
  };
  result::Table table{"", "First purchases", "One row for each customer who placed an order.", {}};
  auto& columns = table.columns;
  columns.push_back(analysis::id_column("customer_id", "The customer.", daybook.customer_ids(), customers));
  PEAR_ASSIGN(std::vector<result::TableColumn> with,
              analysis::customer_columns(options.with, customers, lines));
  std::move(with.begin(), with.end(), std::back_inserter(columns));
  columns.push_back(column("first_date", result::Unit::date, "Date of the customer's first order.",
                           [&](const FirstOrders& each) { return day(each.first); }));
  TextArray first_ids = analysis::parallel_texts(customers.size(), [&](std::size_t row, std::string& text) {
    text += daybook.order_ids()[beginnings[customers[row]].first];
  });
  columns.push_back(result::text_column("first_order_id", "Id of the first order.", std::move(first_ids)));
  FirstProducts products = first_products(daybook, beginnings, customers);
  columns.push_back(result::text_column(
      "first_products",
      "Ids of the products of the first order, each once, in natural order, joined by \" + \".",
      std::move(products.names)));
  columns.push_back(result::integer_column("first_size", result::Unit::count,
                                           "Number of different products in the first order.",
                                           std::move(products.sizes)));
  columns.push_back(column("first_amount", result::Unit::money, "Amount of the first order.",
                           [](const FirstOrders& each) { return each.first_amount; }));
  columns.push_back(column("second_date", result::Unit::date,
                           "Date of the second order; empty where there is none.",
                           [&](const FirstOrders& each) { return day(each.second); }));
  columns.push_back(column(
      "days_to_second", result::Unit::days,
      "Days from the first order to the second; empty where there is none.", [&](const FirstOrders& each) {
        return each.second == expression::kNoMember ? result::kEmptyCell : day(each.second) - day(each.first);
      }));
  columns.push_back(column("orders", result::Unit::count, "Number of orders in all.",
                           [](const FirstOrders& each) { return std::int64_t{each.orders}; }));
  columns.push_back(column("amount", result::Unit::money, "Amount of all lines of the customer.",
                           [](const FirstOrders& each) { return each.amount; }));
  return table;
}

std::string entry_name(const Options& options) {
  return options.per ? analysis::noun_of(options.per->name) : "product";
}

OrError<expression::GroupKey> entry_key(const expression::LineView& lines, const Options& options) {
  if (options.per) {
    PEAR_ASSIGN(std::vector<expression::GroupKey> keys, analysis::keys_of("per", {*options.per}, lines));
    if (keys.front().level == daybook::Level::customer)
      return usage_error(fmt::format(
          "--per {}: it is the same in all purchases of a customer. Take a column of products, orders or "
          "lines; --by compares customers.",
          options.per->text));
    return std::move(keys.front());
  }
  return analysis::id_key(lines.daybook(), daybook::Level::product);
}

}  // namespace pear::first
