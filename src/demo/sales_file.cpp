#include "demo/sales_file.hpp"

#include <array>
#include <iterator>
#include <string>

#include <fmt/format.h>

#include "demo/assortment.hpp"
#include "demo/customer_kinds.hpp"
#include "demo/names.hpp"

namespace pear::demo {
namespace {

std::string with_point(std::int64_t cents) { return fmt::format("{}.{:02}", cents / 100, cents % 100); }

/// The columns of a product in each row: list price, cost, name, category.
std::string product_columns(const SaleLine& line) {
  if (line.product == kUnlisted) return ",,,";
  const Product& product = assortment()[line.product];
  return fmt::format("{},{},{},{}", with_point(product.list_price), with_point(product.unit_cost),
                     product_name(line.product, line.variant), product.category);
}

}  // namespace

OrError<void> write_sales(const Shop& shop, const Write& write) {
  PEAR_TRY(write(
      "order_id,order_date,customer_id,product_id,quantity,unit_price,list_price,unit_cost,product_name,"
      "category,channel,region,customer_kind\n"));
  std::string text;
  for (std::size_t i = 0; i < shop.orders.size(); ++i) {
    const Order& order = shop.orders[i];
    const Customer& customer = shop.customers[order.customer];
    const std::string beginning =
        fmt::format("{},{},{}", order_id(i), to_text(order.date), customer_id(order.customer));
    const std::string ending = fmt::format("{},{},{}", order.by_telephone ? "telephone" : "web",
                                           kRegions[customer.region], kKinds[customer.kind].name);
    text.clear();
    for (std::uint64_t at = order.first_line; at < order.first_line + order.line_count; ++at) {
      const SaleLine& line = shop.lines[at];
      fmt::format_to(std::back_inserter(text), "{},{},{},{},{},{}\n", beginning,
                     product_id(line.product, line.variant), line.quantity, with_point(line.unit_price),
                     product_columns(line), ending);
    }
    PEAR_TRY(write(text));
  }
  return {};
}

}  // namespace pear::demo
