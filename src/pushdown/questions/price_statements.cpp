#include "pushdown/questions/price_statements.hpp"

#include <algorithm>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

namespace pear::pushdown {

using prices::Against;

PriceStatements::PriceStatements(const SelectedLines& lines, const prices::Options& options)
    : lines_(lines),
      dialect_(lines.scope.dialect),
      options_(options),
      has_list_(lines.scope.schema.daybook().find(daybook::role::kListPrice) != nullptr) {
  std::string purchases = "NOT is_return";
  if (lines.scope.warehouse.fees) purchases += " AND NOT is_fee";
  purchases_ = purchases;
  if (options.product) purchases += " AND product_id = " + text_literal(*options.product);
  std::string listed, columns;
  if (has_list_) {
    columns = ", list_price";
    listed =
        ", SUM(CASE WHEN list_price IS NOT NULL THEN quantity END) AS listed_quantity, SUM(CASE WHEN "
        "list_price IS NOT NULL THEN amount END) AS listed_amount, SUM(" +
        dialect_.wide("quantity") + " * list_price) AS listed_value, MAX(list_price) AS listed_price";
  }
  const std::string priced = fmt::format(
      "SELECT customer_id, order_id, product_id, order_date, quantity, amount, {} AS price{} FROM "
      "pear_lines "
      "WHERE {} AND quantity > 0",
      dialect_.quotient("amount", "quantity"), columns, purchases);
  const std::string pairs = fmt::format(
      "SELECT customer_id, product_id, COUNT(DISTINCT order_id) AS orders, SUM(quantity) AS quantity, "
      "SUM(amount) AS amount, MIN(price) AS lowest, MAX(price) AS highest{} FROM pear_sold GROUP BY "
      "customer_id, product_id",
      listed);
  const std::string of_listed =
      has_list_ ? listed_columns("SUM") + ", MAX(listed_price) AS listed_price" : "";
  const std::string products = fmt::format(
      "SELECT product_id, COUNT(*) AS customers, SUM(quantity) AS quantity, SUM(amount) AS amount, "
      "MIN(lowest) AS lowest, MAX(highest) AS highest{} FROM pear_pairs GROUP BY product_id",
      of_listed);
  with_ = lines.with;
  with_.insert(with_.size() - 1,
               fmt::format(",\npear_sold AS ({}),\npear_pairs AS ({}),\npear_products AS ({})", priced, pairs,
                           products));
}

OrError<std::vector<prices::ProductPrices>> PriceStatements::products(const MemberCodes& codes,
                                                                      std::uint32_t count) const {
  std::vector<prices::ProductPrices> products(count);
  std::vector<std::string> columns = {"product_id", "customers", "quantity", "amount", "lowest", "highest"};
  add_listed(columns);
  PEAR_ASSIGN(const SqlRows totals, rows("SELECT * FROM pear_products", columns));
  for (const auto& row : totals) {
    PEAR_ASSIGN(const std::uint32_t code, codes[row[0]]);
    prices::ProductPrices& product = products[code];
    PEAR_ASSIGN(const std::int64_t customers, whole64(row[1]));
    product.customers = static_cast<std::uint32_t>(customers);
    PEAR_ASSIGN(product.quantity, whole64(row[2]));
    PEAR_ASSIGN(product.amount, whole64(row[3]));
    PEAR_ASSIGN(product.lowest, whole64(row[4]));
    PEAR_ASSIGN(product.highest, whole64(row[5]));
    PEAR_ASSIGN(product.listed, listed_in(row, 6));
  }
  PEAR_TRY(add_quartiles(codes, products));
  PEAR_ASSIGN(const SqlRows below,
              rows(fmt::format("SELECT product_id, COUNT(*) AS n FROM ({}) AS pear_below GROUP BY product_id",
                               compared_pairs(fmt::format("{} < 0", sign(1'000'000)))),
                   {"product_id", "n"}));
  for (const auto& row : below) {
    PEAR_ASSIGN(const std::uint32_t code, codes[row[0]]);
    PEAR_ASSIGN(const std::int64_t customers, whole64(row[1]));
    products[code].below = static_cast<std::uint32_t>(customers);
  }
  return products;
}

OrError<std::vector<prices::CustomerPrices>> PriceStatements::customers(const MemberCodes& codes,
                                                                        const MemberCodes& products) const {
  const std::string others = "(pear_products.quantity - pear_pairs.quantity)",
                    scaled = fmt::format("pear_pairs.quantity * {}", prices::CustomerPrices::kCostScale);
  const std::string select = fmt::format(
      "SELECT customer_id, COUNT(*) AS products, SUM(pear_pairs.quantity) AS quantity, "
      "SUM(pear_pairs.amount) AS amount, SUM({}) AS at_average, SUM(CASE WHEN {} > 0 THEN "
      "pear_pairs.amount "
      "END) AS with_others, SUM(CASE WHEN {} > 0 THEN {} END) AS at_others, SUM({}) AS gap FROM pear_pairs "
      "JOIN pear_products ON pear_products.product_id = pear_pairs.product_id GROUP BY customer_id",
      at_average(scaled), others, others, at_others(scaled), gap());
  PEAR_ASSIGN(const SqlRows found, rows(select, {"customer_id", "products", "quantity", "amount",
                                                 "at_average", "with_others", "at_others", "gap"}));
  std::vector<prices::CustomerPrices> customers;
  absl::flat_hash_map<std::uint32_t, std::size_t> places;
  for (const auto& row : found) {
    prices::CustomerPrices each;
    PEAR_ASSIGN(each.customer, codes[row[0]]);
    PEAR_ASSIGN(const std::int64_t count, whole64(row[1]));
    each.products = static_cast<std::uint32_t>(count);
    PEAR_ASSIGN(each.quantity, whole64(row[2]));
    PEAR_ASSIGN(each.amount, whole64(row[3]));
    PEAR_ASSIGN(each.at_average, whole(row[4]));
    PEAR_ASSIGN(each.with_others, whole64(row[5]));
    PEAR_ASSIGN(each.at_others, whole(row[6]));
    PEAR_ASSIGN(each.gap, whole64(row[7]));
    places.emplace(each.customer, customers.size());
    customers.push_back(each);
  }
  const auto add_dearest = [&](const std::string& price, std::int64_t prices::CustomerPrices::*highest,
                               std::uint32_t prices::CustomerPrices::*product) -> OrError<void> {
    PEAR_ASSIGN(const SqlRows dearest, rows(dearest_pairs(price), {"customer_id", "product_id", "price"}));
    for (const auto& row : dearest) {
      PEAR_ASSIGN(const std::uint32_t customer, codes[row[0]]);
      PEAR_ASSIGN(const std::uint32_t code, products[row[1]]);
      prices::CustomerPrices& each = customers[places.at(customer)];
      if (each.*highest == daybook::kEmptyUnits || code < each.*product) each.*product = code;
      PEAR_ASSIGN(each.*highest, whole64(row[2]));
    }
    return {};
  };
  PEAR_TRY(add_dearest("highest", &prices::CustomerPrices::highest_price,
                       &prices::CustomerPrices::highest_price_product));
  if (has_list_)
    PEAR_TRY(add_dearest("listed_price", &prices::CustomerPrices::highest_list_price,
                         &prices::CustomerPrices::highest_list_product));
  return customers;
}

OrError<prices::CustomerProductPrices> PriceStatements::pairs(const MemberCodes& customers,
                                                              const MemberCodes& products,
                                                              std::uint32_t count) const {
  PEAR_ASSIGN(const std::uint64_t left_out, lines_without_quantity());
  std::vector<std::pair<prices::CustomerProductPrice, prices::Listed>> found;
  if (options_.below || options_.above || options_.product) {
    PEAR_ASSIGN(const SqlRows within, rows(compared_pairs(bounds()), pair_columns()));
    for (const auto& row : within) {
      prices::CustomerProductPrice pair{};
      PEAR_ASSIGN(pair.customer, customers[row[0]]);
      PEAR_ASSIGN(pair.product, products[row[1]]);
      PEAR_ASSIGN(const std::int64_t orders, whole64(row[2]));
      pair.orders = static_cast<std::uint32_t>(orders);
      PEAR_ASSIGN(pair.quantity, whole64(row[3]));
      PEAR_ASSIGN(pair.amount, whole64(row[4]));
      PEAR_ASSIGN(pair.lowest, whole64(row[5]));
      PEAR_ASSIGN(pair.highest, whole64(row[6]));
      PEAR_ASSIGN(const prices::Listed listed, listed_in(row, 7));
      found.emplace_back(pair, listed);
    }
  }
  std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) {
    return std::pair(a.first.product, a.first.customer) < std::pair(b.first.product, b.first.customer);
  });
  std::vector<prices::CustomerProductPrice> pairs;
  std::vector<prices::Listed> listed;
  for (const auto& [pair, of_pair] : found) {
    pairs.push_back(pair);
    listed.push_back(of_pair);
  }
  return prices::CustomerProductPrices::of_pairs(count, pairs, std::move(listed), has_list_, left_out);
}

OrError<std::vector<prices::MonthPrices>> PriceStatements::months() const {
  PEAR_ASSIGN(
      const SqlRows found,
      rows(fmt::format("SELECT in_month, SUM(quantity) AS quantity, SUM(amount) AS amount, MIN(price) AS "
                       "lowest, MAX(price) AS highest, COUNT(DISTINCT customer_id) AS customers FROM "
                       "(SELECT pear_sold.*, {} AS in_month FROM pear_sold) AS pear_dated GROUP BY "
                       "in_month ORDER BY in_month",
                       dialect_.month_index("order_date")),
           {"in_month", "quantity", "amount", "lowest", "highest", "customers"}));
  std::vector<prices::MonthPrices> months;
  for (const auto& row : found) {
    prices::MonthPrices each{};
    PEAR_ASSIGN(const std::int64_t month, whole64(row[0]));
    each.month.index = static_cast<std::int32_t>(month);
    PEAR_ASSIGN(each.quantity, whole64(row[1]));
    PEAR_ASSIGN(each.amount, whole64(row[2]));
    PEAR_ASSIGN(each.lowest, whole64(row[3]));
    PEAR_ASSIGN(each.highest, whole64(row[4]));
    PEAR_ASSIGN(const std::int64_t customers, whole64(row[5]));
    each.customers = static_cast<std::uint32_t>(customers);
    each.average =
        price_of_piece(Decimal::from_units(each.amount), Decimal::from_units(each.quantity))->units();
    months.push_back(each);
  }
  return months;
}

OrError<SqlRows> PriceStatements::rows(const std::string& select,
                                       const std::vector<std::string>& columns) const {
  return lines_.session.rows(with_, select, columns);
}

std::string PriceStatements::listed_columns(const char* function) {
  std::string columns;
  for (const char* name : {"listed_quantity", "listed_amount", "listed_value"})
    columns += fmt::format(", {0}({1}) AS {1}", function, name);
  return columns;
}

void PriceStatements::add_listed(std::vector<std::string>& columns) const {
  if (has_list_)
    columns.insert(columns.end(), {"listed_quantity", "listed_amount", "listed_value", "listed_price"});
}

OrError<prices::Listed> PriceStatements::listed_in(const std::vector<SqlValue>& row,
                                                   std::size_t first) const {
  prices::Listed listed;
  if (!has_list_ || !row[first]) return listed;
  PEAR_ASSIGN(listed.quantity, whole64(row[first]));
  PEAR_ASSIGN(listed.amount, whole64(row[first + 1]));
  PEAR_ASSIGN(listed.value, whole(row[first + 2]));
  PEAR_ASSIGN(listed.highest, whole64(row[first + 3]));
  return listed;
}

std::vector<std::string> PriceStatements::pair_columns() const {
  std::vector<std::string> columns = {"customer_id", "product_id", "orders", "quantity",
                                      "amount",      "lowest",     "highest"};
  add_listed(columns);
  return columns;
}

std::string PriceStatements::sign(std::int64_t share) const {
  if (options_.against == Against::list)
    return fmt::format(
        "CASE WHEN pear_pairs.listed_quantity > 0 THEN {} END",
        dialect_.compared("pear_pairs.listed_amount", "10000", share, "pear_pairs.listed_value", "1"));
  std::string quantity = "pear_products.quantity", amount = "pear_products.amount";
  if (options_.against == Against::others)
    quantity = "(pear_products.quantity - pear_pairs.quantity)",
    amount = "(pear_products.amount - pear_pairs.amount)";
  return fmt::format("CASE WHEN {} > 0 THEN {} END", quantity,
                     dialect_.compared("pear_pairs.amount", quantity, share, amount, "pear_pairs.quantity"));
}

std::string PriceStatements::bounds() const {
  std::string condition = "1 = 1";
  if (options_.below) condition += fmt::format(" AND {} < 0", sign(*options_.below));
  if (options_.above) condition += fmt::format(" AND {} > 0", sign(*options_.above));
  return condition;
}

std::string PriceStatements::compared_pairs(const std::string& condition) {
  return fmt::format(
      "SELECT pear_pairs.* FROM pear_pairs JOIN pear_products ON pear_products.product_id = "
      "pear_pairs.product_id WHERE {}",
      condition);
}

std::string PriceStatements::at_others(const std::string& quantity) const {
  return dialect_.proportion(quantity, "(pear_products.amount - pear_pairs.amount)",
                             "(pear_products.quantity - pear_pairs.quantity)");
}

std::string PriceStatements::gap() const {
  if (options_.against == Against::all) return at_average("pear_pairs.quantity") + " - pear_pairs.amount";
  if (options_.against == Against::others)
    return fmt::format(
        "CASE WHEN pear_products.quantity > pear_pairs.quantity THEN {} - pear_pairs.amount END",
        at_others("pear_pairs.quantity"));
  if (!has_list_) return "0";
  return fmt::format("CASE WHEN pear_pairs.listed_quantity > 0 THEN {} - pear_pairs.listed_amount END",
                     dialect_.proportion("pear_pairs.listed_value", "1", "10000"));
}

std::string PriceStatements::dearest_pairs(const std::string& price) {
  return fmt::format(
      "SELECT customer_id, product_id, {0} AS price FROM (SELECT pear_pairs.*, MAX({0}) OVER (PARTITION BY "
      "customer_id) AS most FROM pear_pairs) AS pear_ranked WHERE {0} = most",
      price);
}

OrError<void> PriceStatements::add_quartiles(const MemberCodes& codes,
                                             std::vector<prices::ProductPrices>& products) const {
  const std::string averages = fmt::format("SELECT product_id, {} AS average FROM pear_pairs",
                                           dialect_.quotient("amount", "quantity"));
  const std::string placed = fmt::format(
      "SELECT product_id, average, ROW_NUMBER() OVER (PARTITION BY product_id ORDER BY average) AS place, "
      "COUNT(*) OVER (PARTITION BY product_id) AS n FROM ({}) AS pear_averages",
      averages);
  std::vector<std::string> columns = {"product_id"};
  std::string select = "SELECT product_id";
  for (int quarter = 1; quarter <= 3; ++quarter) {
    columns.push_back(fmt::format("q{}", quarter));
    select += fmt::format(", MIN(CASE WHEN place = ({0} * n + 3) / 4 THEN average END) AS q{0}", quarter);
  }
  PEAR_ASSIGN(const SqlRows found,
              rows(fmt::format("{} FROM ({}) AS pear_placed GROUP BY product_id", select, placed), columns));
  for (const auto& row : found) {
    PEAR_ASSIGN(const std::uint32_t code, codes[row[0]]);
    PEAR_ASSIGN(products[code].lower_quartile, whole64(row[1]));
    PEAR_ASSIGN(products[code].median, whole64(row[2]));
    PEAR_ASSIGN(products[code].upper_quartile, whole64(row[3]));
  }
  return {};
}

OrError<std::uint64_t> PriceStatements::lines_without_quantity() const {
  PEAR_ASSIGN(
      const SqlRows found,
      rows(fmt::format("SELECT COUNT(*) AS n FROM pear_lines WHERE {} AND NOT quantity > 0", purchases_),
           {"n"}));
  if (found.empty()) return 0;
  PEAR_ASSIGN(const std::int64_t count, whole64(found[0][0]));
  return static_cast<std::uint64_t>(count);
}

}  // namespace pear::pushdown
