#include "questions/prices/tables.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"

namespace pear::prices {
namespace {

/// The ids, and names if there are any, of each row.
void add_members(const daybook::Daybook& daybook, daybook::Level level,
                 const result::LazyColumn<std::uint32_t>& members,
                 std::vector<result::TableColumn>& columns) {
  const bool of_products = level == daybook::Level::product;
  const expression::GroupKey key = analysis::id_key(daybook, level);
  std::vector<std::uint32_t> all(daybook.members(level));
  std::iota(all.begin(), all.end(), 0U);
  std::vector<result::TableColumn> by_member = {analysis::key_column(
      of_products ? "product_id" : "customer_id", of_products ? "The product." : "The customer.", key, all)};
  analysis::add_names(daybook, key, all, by_member);
  for (result::TableColumn& column : by_member) {
    column.always_shown = of_products || &column == &by_member.front();  // customers' names if there is room
    columns.push_back(result::seen_from(column, members));
  }
}

std::string gap_description(Against against) {
  switch (against) {
    case Against::all:
      return "quantity x (product_average - average_price): the amount paid less.";
    case Against::others:
      return "quantity x (others_average - average_price): the amount paid less.";
    case Against::list:
      break;
  }
  return "The same pieces at list price, minus what was paid.";
}

/// What orders show of each customer: how much they buy, and whether volume explains what they pay.
template <class Row>
void add_tests(const Row& row, std::size_t customers, result::Table& table) {
  using C = CustomerPrices;
  auto& columns = table.columns;
  const analysis::LazyRows lazy{customers, row};
  analysis::TableBuilder builder(table, lazy);
  builder
      .number("volume_index", "Quantity divided by that of the median customers of the same products.", 1,
              [](const C& c) { return c.volume_index(); })
      .always_shown = true;
  builder.share("usual_index",
                "Amount divided by what the same pieces cost customers with the median quantity at the time.",
                [](const C& c) { return c.usual_index(); });
  builder
      .share("unexplained",
             "Amount divided by what the same pieces cost customers with the same volume at the time.",
             [](const C& c) { return c.unexplained(); })
      .always_shown = true;
  builder.count("compared_orders", "Orders with products that enough customers buy to compare prices.",
                [](const C& c) { return c.evidence.orders; });
  builder.count("low_orders",
                "Of these, at least 5% below the price expected at the time and for the volume.",
                [](const C& c) { return c.evidence.expected.orders; });
  builder.probability("q_value", "Significance of low_orders, adjusted for the number of customers.",
                      [](const C& c) { return c.evidence.orders == 0 ? NAN : c.evidence.expected.q_value; });
  builder.count("orders_below_usual", "Compared orders at least 5% below the price at the median quantity.",
                [](const C& c) { return c.evidence.usual.orders; });
  builder.probability("volume_q_value",
                      "Significance of orders_below_usual, adjusted for the number of customers.",
                      [](const C& c) { return c.evidence.orders == 0 ? NAN : c.evidence.usual.q_value; });
  columns.push_back(result::text_column("reason",
                                        "volume: pays less and buys far more; unexplained: pays less in "
                                        "most orders than customers with the same volume.",
                                        TextArray{}));
  columns.back().values =
      result::computed<std::string_view>(customers, [row](std::size_t at) -> std::string_view {
        const PriceReason reason = row(at).reason;
        return reason == PriceReason::volume        ? "volume"
               : reason == PriceReason::unexplained ? "unexplained"
                                                    : "";
      });
  columns.back().always_shown = true;
}

}  // namespace

result::Table prices_table(const Counts& counts) {
  result::Table table{"", "Price paid", "One row for each product and customer who bought it.", {}};
  auto& columns = table.columns;
  const auto levels = counts.levels;
  const auto rows = counts.rows;
  const auto pair = [levels, rows](std::size_t row) -> std::size_t { return (*rows)[row]; };
  const auto member = [&](auto of) {
    return result::computed<std::uint32_t>(
        rows->size(), [levels, pair, of](std::size_t row) { return levels->paid()[pair(row)].*of; });
  };
  add_members(counts.daybook(), daybook::Level::product, member(&CustomerProductPrice::product), columns);
  add_members(counts.daybook(), daybook::Level::customer, member(&CustomerProductPrice::customer), columns);
  const analysis::LazyRows lazy{rows->size(), pair};
  analysis::TableBuilder builder(table, lazy);
  const auto paid = [levels](auto of) {
    return [levels, of](std::size_t at) { return of(levels->paid()[at]); };
  };
  const auto level = [levels](auto of) {
    return [levels, of](std::size_t at) { return ((*levels).*of)(at); };
  };
  builder.count("orders", "Orders with it.", paid([](const CustomerProductPrice& p) { return p.orders; }));
  builder.integer(result::Unit::number, "quantity", "Pieces bought.",
                  paid([](const CustomerProductPrice& p) { return p.quantity; }));
  builder.rounded_money("amount", "The amount paid.",
                        paid([](const CustomerProductPrice& p) { return p.amount; }));
  builder
      .rounded_money("average_price", "Average price per piece: amount / quantity.",
                     level(&PriceComparison::average))
      .always_shown = true;
  builder.rounded_money(
      "product_average", "Average price per piece of all customers.",
      [levels](std::size_t at) { return levels->product(levels->paid()[at].product).average(); });
  builder.rounded_money("others_average",
                        "Average price per piece of all other customers; empty if there are none.",
                        level(&PriceComparison::others_average));
  builder.share("index", "average_price / product_average.", level(&PriceComparison::index)).always_shown =
      counts.options.against == Against::all;
  builder
      .share("index_of_others", "average_price / others_average.", level(&PriceComparison::index_of_others))
      .always_shown = counts.options.against == Against::others;
  builder.rounded_money("gap_amount", gap_description(counts.options.against), level(&PriceComparison::gap))
      .always_shown = true;
  builder.rounded_money("lowest_price", "Lowest price per piece.",
                        paid([](const CustomerProductPrice& p) { return p.lowest; }));
  builder.rounded_money("highest_price", "Highest price per piece.",
                        paid([](const CustomerProductPrice& p) { return p.highest; }));
  if (levels->paid().has_list_prices()) {
    builder.rounded_money("list_price", "List price of these pieces, the average if it changed.",
                          [levels](std::size_t at) { return levels->paid().listed(at).price(); });
    builder
        .share("list_index", "Amount divided by the list price of the same pieces.",
               [levels](std::size_t at) { return levels->paid().listed(at).index(); })
        .always_shown = counts.options.against == Against::list;
  }
  if (!counts.has_tests) return table;
  builder.share("time_index", "Amount divided by the price of the same pieces at the time.",
                level(&PriceComparison::time_index));
  builder.share("expected_index", "The usual time_index at this quantity.",
                level(&PriceComparison::expected_index));
  builder.share("unexplained",
                "time_index / expected_index: the part that neither time nor quantity explains.",
                level(&PriceComparison::unexplained));
  return table;
}

result::Table customers_table(const Counts& counts) {
  result::Table table{"customers", "Customers", "One row for each customer, the largest gap first.", {}};
  auto& columns = table.columns;
  const auto customers = counts.customers;
  const auto row = [customers](std::size_t at) -> const CustomerPrices& { return (*customers)[at]; };
  const auto member = [&](auto of) {
    return result::computed<std::uint32_t>(customers->size(),
                                           [row, of](std::size_t at) { return row(at).*of; });
  };
  using C = CustomerPrices;
  add_members(counts.daybook(), daybook::Level::customer, member(&C::customer), columns);
  const analysis::LazyRows lazy{customers->size(), row};
  analysis::TableBuilder builder(table, lazy);
  builder.count("products", "Distinct products bought.", [](const C& c) { return c.products; });
  builder.integer(result::Unit::number, "quantity", "Pieces bought.", [](const C& c) { return c.quantity; });
  builder.rounded_money("amount", "The amount paid.", [](const C& c) { return c.amount; });
  builder.share("index", "Amount divided by the cost of the same pieces at the average of all customers.",
                [](const C& c) { return c.index(); });
  builder
      .share("index_of_others", "Amount divided by the cost of the same pieces at the average of the others.",
             [](const C& c) { return c.index_of_others(); })
      .always_shown = true;
  builder
      .rounded_money("gap_amount", "Sum of gap_amount over all products.", [](const C& c) { return c.gap; })
      .always_shown = true;
  if (counts.has_tests) add_tests(row, customers->size(), table);
  const TextArray& ids = counts.daybook().product_ids();
  std::vector<std::uint32_t> all(ids.size());
  std::iota(all.begin(), all.end(), 0U);
  builder.rounded_money("highest_price", "Highest price paid per piece.",
                        [](const C& c) { return c.highest_price; });
  columns.push_back(result::seen_from(
      analysis::id_column("highest_price_product",
                          "The product with that price; the first if there are several.", ids, all),
      member(&C::highest_price_product)));
  if (!counts.levels->paid().has_list_prices()) return table;
  builder.rounded_money("highest_list_price", "Highest list price of a product bought.",
                        [](const C& c) { return c.highest_list_price; });
  std::vector<std::uint32_t> with_none = all;
  with_none.push_back(result::CodedTexts::kNoText);
  const auto none = static_cast<std::uint32_t>(all.size());
  columns.push_back(result::seen_from(
      analysis::id_column("highest_list_product", "That product; the first if there are several.", ids,
                          with_none),
      result::computed<std::uint32_t>(customers->size(), [row, none](std::size_t at) {
        return row(at).highest_list_price == daybook::kEmptyUnits ? none : row(at).highest_list_product;
      })));
  return table;
}

result::Table products_table(const Counts& counts) {
  const PriceComparison& levels = *counts.levels;
  std::vector<std::uint32_t> products;
  for (std::uint32_t product = 0; product < levels.products().size(); ++product)
    if (counts.product.value_or(product) == product && levels.product(product).customers > 0)
      products.push_back(product);
  std::stable_sort(products.begin(), products.end(), [&](std::uint32_t a, std::uint32_t b) {
    return levels.product(a).amount > levels.product(b).amount;
  });
  result::Table table{
      "products",
      "Products",
      counts.product ? "One row: the product." : "One row for each product, the largest amount first.",
      {}};
  auto& columns = table.columns;
  add_members(
      counts.daybook(), daybook::Level::product,
      result::computed<std::uint32_t>(products.size(), [products](std::size_t row) { return products[row]; }),
      columns);
  const analysis::LazyRows lazy{products.size(),
                                [products, kept = counts.levels](std::size_t row) -> const ProductPrices& {
                                  return kept->product(products[row]);
                                }};
  analysis::TableBuilder builder(table, lazy);
  using P = ProductPrices;
  builder.count("customers", "Customers who bought it.", [](const P& p) { return p.customers; });
  builder.integer(result::Unit::number, "quantity", "Pieces bought.", [](const P& p) { return p.quantity; });
  builder.rounded_money("amount", "The amount paid.", [](const P& p) { return p.amount; });
  builder
      .rounded_money("average_price", "Average price per piece: amount / quantity.",
                     [](const P& p) { return p.average(); })
      .always_shown = true;
  builder.rounded_money("lowest_price", "Lowest price per piece.", [](const P& p) { return p.lowest; });
  builder.rounded_money("price_p25", "First quartile of customers' average prices.",
                        [](const P& p) { return p.lower_quartile; });
  builder.rounded_money("price_median", "Median of customers' average prices.",
                        [](const P& p) { return p.median; });
  builder.rounded_money("price_p75", "Third quartile of customers' average prices.",
                        [](const P& p) { return p.upper_quartile; });
  builder.rounded_money("highest_price", "Highest price per piece.", [](const P& p) { return p.highest; });
  if (levels.paid().has_list_prices()) {
    builder.rounded_money("list_price", "List price, the average of the pieces if it changed.",
                          [](const P& p) { return p.listed.price(); });
    builder
        .share("average_discount", "The discount from list price, as a share of it.",
               [](const P& p) { return 1 - p.listed.index(); })
        .always_shown = true;
  }
  builder
      .count("customers_below", fmt::format("Customers who paid less than {}.", counts.compared_with()),
             [](const P& p) { return p.below; })
      .always_shown = true;
  return table;
}

result::Table months_table(const Counts& counts) {
  using M = MonthPrices;
  result::Table table{"months", "By month", "One row for each month in which the product was bought.", {}};
  analysis::TableBuilder builder(table, counts.months);
  builder.id("product_id", "The product.", counts.daybook().product_ids(),
             [&](const M&) { return *counts.product; });
  builder.text("month", "The month.", [](const M& m) { return to_text(m.month); });
  builder.count("customers", "Customers who bought it.", [](const M& m) { return m.customers; });
  builder.integer(result::Unit::number, "quantity", "Pieces bought.", [](const M& m) { return m.quantity; });
  builder.rounded_money("amount", "The amount paid.", [](const M& m) { return m.amount; });
  builder.rounded_money("average_price", "Average price per piece: amount / quantity.",
                        [](const M& m) { return m.average; });
  builder.rounded_money("lowest_price", "Lowest price per piece.", [](const M& m) { return m.lowest; });
  builder.rounded_money("highest_price", "Highest price per piece.", [](const M& m) { return m.highest; });
  return table;
}

}  // namespace pear::prices
