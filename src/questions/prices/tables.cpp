#include "questions/prices/tables.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"

namespace pear::prices {
namespace {

/// Ids, and names where there are any, of what each row is of.
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
    column.always_shown =
        of_products || &column == &by_member.front();  // customers' names where there is room
    columns.push_back(result::seen_from(column, members));
  }
}

/// Columns of rows that are worked out from what a row stands for.
template <class Row>
class RowColumns {
 public:
  RowColumns(std::size_t rows, Row row, std::vector<result::TableColumn>& columns)
      : rows_(rows), row_(std::move(row)), columns_(columns) {}

  template <class Of>
  result::TableColumn& add(std::string name, result::Unit unit, std::string description, Of of) {
    columns_.push_back(result::lazy_column(
        std::move(name), unit, std::move(description),
        {rows_, [row = row_, of](std::size_t i) { return static_cast<std::int64_t>(of(row(i))); }}));
    if (unit == result::Unit::money) columns_.back().places = 2;  // averages and gaps have up to four
    return columns_.back();
  }
  template <class Of>
  result::TableColumn& add_share(std::string name, std::string description, Of of) {
    columns_.push_back(
        result::lazy_share_column(std::move(name), std::move(description),
                                  {rows_, [row = row_, of](std::size_t i) { return of(row(i)); }}));
    return columns_.back();
  }

 private:
  std::size_t rows_;
  Row row_;
  std::vector<result::TableColumn>& columns_;
};

std::int64_t in_units(double ratio) {
  return std::isnan(ratio) ? result::kEmptyCell : std::llround(ratio * Decimal::kScale);
}

std::string gap_description(Against against) {
  switch (against) {
    case Against::all:
      return "quantity x (product_average - average_price): what paying less is worth.";
    case Against::others:
      return "quantity x (others_average - average_price): what paying less is worth.";
    case Against::list:
      break;
  }
  return "What the pieces cost at list price, less what was paid for them.";
}

}  // namespace

std::string Finding::compared_with() const {
  switch (options.against) {
    case Against::all:
      return "the average of all";
    case Against::others:
      return "what others pay";
    case Against::list:
      break;
  }
  return "the list price";
}

result::Table prices_table(const Finding& finding) {
  result::Table table{"", "Price paid", "One row for each product and customer who bought it.", {}};
  auto& columns = table.columns;
  const auto levels = finding.levels;
  const auto rows = finding.rows;
  const auto pair = [levels, rows](std::size_t row) -> std::size_t { return (*rows)[row]; };
  const auto member = [&](auto of) {
    return result::LazyColumn<std::uint32_t>{
        rows->size(), [levels, pair, of](std::size_t row) { return levels->paid()[pair(row)].*of; }};
  };
  add_members(finding.daybook(), daybook::Level::product, member(&CustomerProductPrice::product), columns);
  add_members(finding.daybook(), daybook::Level::customer, member(&CustomerProductPrice::customer), columns);
  RowColumns add(rows->size(), pair, columns);
  const auto paid = [levels](auto of) {
    return [levels, of](std::size_t at) { return of(levels->paid()[at]); };
  };
  const auto level = [levels](auto of) {
    return [levels, of](std::size_t at) { return ((*levels).*of)(at); };
  };
  add.add("orders", result::Unit::count, "Orders with it.",
          paid([](const CustomerProductPrice& p) { return p.orders; }));
  add.add("quantity", result::Unit::number, "Pieces bought.",
          paid([](const CustomerProductPrice& p) { return p.quantity; }));
  add.add("amount", result::Unit::money, "What was paid for them.",
          paid([](const CustomerProductPrice& p) { return p.amount; }));
  add.add("average_price", result::Unit::money, "Amount by pieces.", level(&PriceComparison::average))
      .always_shown = true;
  add.add("product_average", result::Unit::money, "Amount by pieces of all customers.",
          [levels](std::size_t at) { return levels->product(levels->paid()[at].product).average(); });
  add.add("others_average", result::Unit::money,
          "Amount by pieces of all other customers; empty where there are none.",
          level(&PriceComparison::others_average));
  add.add_share("index", "average_price / product_average.", level(&PriceComparison::index)).always_shown =
      finding.options.against == Against::all;
  add.add_share("index_of_others", "average_price / others_average.",
                level(&PriceComparison::index_of_others))
      .always_shown = finding.options.against == Against::others;
  add.add("gap_amount", result::Unit::money, gap_description(finding.options.against),
          level(&PriceComparison::gap))
      .always_shown = true;
  add.add("lowest_price", result::Unit::money, "Lowest price of a piece.",
          paid([](const CustomerProductPrice& p) { return p.lowest; }));
  add.add("highest_price", result::Unit::money, "Highest price of a piece.",
          paid([](const CustomerProductPrice& p) { return p.highest; }));
  if (levels->paid().has_list_prices()) {
    add.add("list_price", result::Unit::money, "List price of these pieces, their average where it changed.",
            [levels](std::size_t at) { return levels->paid().listed(at).price(); });
    add.add_share("list_index", "Amount by what the same pieces cost at list price.",
                  [levels](std::size_t at) { return levels->paid().listed(at).index(); })
        .always_shown = finding.options.against == Against::list;
  }
  add.add_share("expected_index", "The index that customers of this quantity usually have.",
                level(&PriceComparison::expected_index));
  add.add_share("unexplained", "index / expected_index: what the quantity does not explain.",
                level(&PriceComparison::unexplained));
  return table;
}

result::Table customers_table(const Finding& finding) {
  result::Table table{"customers", "Customers", "One row for each customer, the largest gap first.", {}};
  auto& columns = table.columns;
  const auto customers = finding.customers;
  const auto row = [customers](std::size_t at) -> const CustomerPrices& { return (*customers)[at]; };
  const auto member = [&](auto of) {
    return result::LazyColumn<std::uint32_t>{customers->size(),
                                             [row, of](std::size_t at) { return row(at).*of; }};
  };
  using C = CustomerPrices;
  add_members(finding.daybook(), daybook::Level::customer, member(&C::customer), columns);
  RowColumns add(customers->size(), row, columns);
  add.add("products", result::Unit::count, "Different products bought.",
          [](const C& c) { return c.products; });
  add.add("quantity", result::Unit::number, "Pieces bought.", [](const C& c) { return c.quantity; });
  add.add("amount", result::Unit::money, "What was paid for them.", [](const C& c) { return c.amount; });
  add.add_share("index", "Amount by what the same pieces cost at the average of all customers.",
                [](const C& c) { return c.index(); });
  add.add_share("index_of_others", "Amount by what the same pieces cost at the average of the others.",
                [](const C& c) { return c.index_of_others(); })
      .always_shown = true;
  add.add("gap_amount", result::Unit::money, "gap_amount of all products together.",
          [](const C& c) { return c.gap; })
      .always_shown = true;
  add.add("volume_index", result::Unit::number,
          "Quantity by what the median customers of the same products buy.",
          [](const C& c) { return in_units(c.volume_index()); });
  columns.back().places = 1;
  columns.back().always_shown = true;
  add.add_share("usual_index", "Amount by what the same pieces cost customers who buy the median quantity.",
                [](const C& c) { return c.usual_index(); });
  add.add_share("unexplained", "Amount by what the same pieces cost customers who buy as much.",
                [](const C& c) { return c.unexplained(); })
      .always_shown = true;
  add.add("judged_products", result::Unit::count,
          "Products with enough customers to say what a quantity costs.",
          [](const C& c) { return c.judged; });
  add.add("low_products", result::Unit::count, "Of these, bought at least 5% below that.",
          [](const C& c) { return c.low; });
  columns.push_back(
      result::text_column("reason",
                          "volume: pays less and buys far more; unexplained: pays less for most products "
                          "than customers who buy as much.",
                          TextArray{}));
  columns.back().values =
      result::LazyColumn<std::string_view>{customers->size(), [row](std::size_t at) -> std::string_view {
                                             const PriceReason reason = row(at).reason;
                                             return reason == PriceReason::volume        ? "volume"
                                                    : reason == PriceReason::unexplained ? "unexplained"
                                                                                         : "";
                                           }};
  columns.back().always_shown = true;
  const TextArray& ids = finding.daybook().product_ids();
  std::vector<std::uint32_t> all(ids.size());
  std::iota(all.begin(), all.end(), 0U);
  add.add("highest_price", result::Unit::money, "Highest price ever paid for a piece.",
          [](const C& c) { return c.highest_price; });
  columns.push_back(
      result::seen_from(analysis::id_column("highest_price_product",
                                            "The product it was paid for; the first of several.", ids, all),
                        member(&C::highest_price_product)));
  if (!finding.levels->paid().has_list_prices()) return table;
  add.add("highest_list_price", result::Unit::money, "Highest list price of a product bought.",
          [](const C& c) { return c.highest_list_price; });
  std::vector<std::uint32_t> with_none = all;
  with_none.push_back(result::CodedTexts::kNoText);
  const auto none = static_cast<std::uint32_t>(all.size());
  columns.push_back(result::seen_from(
      analysis::id_column("highest_list_product", "That product; the first of several.", ids, with_none),
      {customers->size(), [row, none](std::size_t at) {
         return row(at).highest_list_price == daybook::kEmptyUnits ? none : row(at).highest_list_product;
       }}));
  return table;
}

result::Table products_table(const Finding& finding) {
  const PriceComparison& levels = *finding.levels;
  std::vector<std::uint32_t> products;
  for (std::uint32_t product = 0; product < levels.products().size(); ++product)
    if (finding.product.value_or(product) == product && levels.product(product).customers > 0)
      products.push_back(product);
  std::stable_sort(products.begin(), products.end(), [&](std::uint32_t a, std::uint32_t b) {
    return levels.product(a).amount > levels.product(b).amount;
  });
  result::Table table{
      "products",
      "Products",
      finding.product ? "One row: the product." : "One row for each product, the largest amount first.",
      {}};
  auto& columns = table.columns;
  add_members(finding.daybook(), daybook::Level::product,
              {products.size(), [products](std::size_t row) { return products[row]; }}, columns);
  RowColumns add(
      products.size(),
      [products, kept = finding.levels](std::size_t row) -> const ProductPrices& {
        return kept->product(products[row]);
      },
      columns);
  using P = ProductPrices;
  add.add("customers", result::Unit::count, "Customers who bought it.",
          [](const P& p) { return p.customers; });
  add.add("quantity", result::Unit::number, "Pieces bought.", [](const P& p) { return p.quantity; });
  add.add("amount", result::Unit::money, "What was paid for them.", [](const P& p) { return p.amount; });
  add.add("average_price", result::Unit::money, "Amount by pieces.", [](const P& p) { return p.average(); })
      .always_shown = true;
  add.add("lowest_price", result::Unit::money, "Lowest price of a piece.",
          [](const P& p) { return p.lowest; });
  add.add("price_p25", result::Unit::money, "First quartile of customers' average prices.",
          [](const P& p) { return p.lower_quartile; });
  add.add("price_median", result::Unit::money, "Median of customers' average prices.",
          [](const P& p) { return p.median; });
  add.add("price_p75", result::Unit::money, "Third quartile of customers' average prices.",
          [](const P& p) { return p.upper_quartile; });
  add.add("highest_price", result::Unit::money, "Highest price of a piece.",
          [](const P& p) { return p.highest; });
  if (levels.paid().has_list_prices()) {
    add.add("list_price", result::Unit::money, "List price, the average of pieces where it changed.",
            [](const P& p) { return p.listed.price(); });
    add.add_share("average_discount", "What was paid below list price, as a share of that.",
                  [](const P& p) { return 1 - p.listed.index(); })
        .always_shown = true;
  }
  add.add("customers_below", result::Unit::count,
          fmt::format("Customers who paid less than {}.", finding.compared_with()),
          [](const P& p) { return p.below; })
      .always_shown = true;
  return table;
}

}  // namespace pear::prices
