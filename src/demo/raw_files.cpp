#include "demo/raw_files.hpp"

#include <algorithm>
#include <iterator>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "demo/assortment.hpp"
#include "demo/customer_kinds.hpp"
#include "demo/names.hpp"

namespace pear::demo {
namespace {

constexpr std::size_t kSmallestMessyShop = 200;  // orders
constexpr std::size_t kReexported = 48;
constexpr std::size_t kImpossibleDates = 3;
constexpr std::size_t kMissingCustomers = 2;
constexpr std::uint32_t kMoved = 4;
constexpr std::uint32_t kSharedEmail = 23;  // a customer with the address of the one before

bool messy(const Shop& shop) { return shop.orders.size() >= kSmallestMessyShop; }

std::string with_comma(std::int64_t cents) { return fmt::format("{},{:02}", cents / 100, cents % 100); }

std::string german_date(Date date) {
  const std::string iso = to_text(date);
  return fmt::format("{}.{}.{}", iso.substr(8, 2), iso.substr(5, 2), iso.substr(0, 4));
}

// Which orders and customers have which fault: by their numbers, so that none has two.
bool has_spaced_id(std::size_t order) { return order % 331 == 17; }
bool has_lower_case_id(std::size_t order) { return order % 331 == 101; }
bool has_spaced_region(std::uint32_t customer) { return customer % 97 == 12; }
bool has_upper_case_region(std::uint32_t customer) { return customer % 97 == 40; }
bool has_email(std::uint32_t customer) { return customer % 3 != 1 || customer == kSharedEmail - 1; }
/// Moved customers have bought, and have no other fault.
std::uint32_t moved(std::uint32_t number) { return 150 + 10 * number; }

std::string in_upper_case(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](char c) { return c >= 'a' && c <= 'z' ? static_cast<char>(c - 'a' + 'A') : c; });
  return text;
}

/// UTF-8 as Windows-1252; the names contain no letters beyond Latin-1.
std::string as_windows_1252(std::string_view text) {
  std::string bytes;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const auto byte = static_cast<unsigned char>(text[i]);
    if (byte < 0x80) {
      bytes += text[i];
    } else {
      const auto next = static_cast<unsigned char>(text[++i]);
      bytes += static_cast<char>(((byte & 0x1FU) << 6U) | (next & 0x3FU));
    }
  }
  return bytes;
}

std::string email_of(std::uint32_t customer) {
  if (!has_email(customer)) return "";
  const std::uint32_t owner = customer == kSharedEmail ? customer - 1 : customer;
  return fmt::format("post{}@mailbox.example", 7 * owner + 1003);
}

std::string_view town_of(std::uint32_t customer, std::uint8_t region) {
  constexpr std::string_view kTowns[] = {"Ashmere",    "Brookholm", "Clayford",     "Dunwick",   "Elmstead",
                                         "Fallowdale", "Gorsehill", "Heathergarth", "Ivelmouth", "Jarncroft"};
  return kTowns[(region * 2U + customer % 2U) % 10U];
}

std::string customer_row(const Shop& shop, std::uint32_t customer, bool before_moving) {
  const Customer& is = shop.customers[customer];
  const auto region_number =
      static_cast<std::uint8_t>(before_moving ? (is.region + 1) % kRegions.size() : is.region);
  std::string region(kRegions.at(region_number));
  if (messy(shop) && has_spaced_region(customer)) region += " ";
  if (messy(shop) && has_upper_case_region(customer)) region = in_upper_case(region);
  const Date changed = date_of(before_moving ? 2022 : 2024, 1 + customer % 12, 1 + customer % 28);
  return fmt::format("{};{};{};{};{};{};{};{}\n", customer_id(customer), customer_name(customer),
                     email_of(customer), kKinds.at(is.kind).name, region, town_of(customer, region_number),
                     german_date(changed), customer % 200 == 9 ? "rings before noon" : "");
}

std::string line_row(const Shop& shop, std::size_t order, std::uint64_t at) {
  const SaleLine& line = shop.lines[at];
  return fmt::format("{};{};{};{};{}\n", order_id(order), at - shop.orders[order].first_line + 1,
                     product_id(line.product, line.variant), line.quantity, with_comma(line.unit_price));
}

/// The rows of faulty orders: on impossible days, and without a customer.
std::string faulty_orders(const Shop& shop) {
  std::string text;
  for (std::size_t i = 0; i < kImpossibleDates; ++i)
    text +=
        fmt::format("{};{}.02.2024;{};web\n", order_id(shop.orders.size() + i), 30 + i % 2, customer_id(5));
  for (std::size_t i = 0; i < kMissingCustomers; ++i)
    text += fmt::format("{};1{}.05.2024;;web\n", order_id(shop.orders.size() + kImpossibleDates + i), i);
  return text;
}

/// Everyone on the customer list, including customers who have not bought yet.
std::vector<bool> with_orders(const Shop& shop) {
  std::vector<bool> bought(shop.customers.size());
  for (const Order& order : shop.orders) bought[order.customer] = true;
  return bought;
}

}  // namespace

PlantedFaults planted_faults(const Shop& shop) {
  PlantedFaults faults;
  for (const SaleLine& line : shop.lines) faults.lines_of_unlisted += line.product == kUnlisted ? 1U : 0U;
  if (!messy(shop)) return faults;
  faults.reexported_lines = kReexported;
  faults.impossible_dates = kImpossibleDates;
  faults.missing_customers = kMissingCustomers;
  faults.moved_customers = kMoved;
  faults.namesakes = 2;
  faults.shared_emails = 1;
  for (std::size_t order = 0; order < shop.orders.size(); ++order) {
    faults.spaced_ids += has_spaced_id(order) ? 1U : 0U;
    faults.lower_case_ids += has_lower_case_id(order) ? 1U : 0U;
  }
  for (std::uint32_t customer = 0; customer < shop.customers.size(); ++customer) {
    faults.spaced_regions += has_spaced_region(customer) ? 1U : 0U;
    faults.upper_case_regions += has_upper_case_region(customer) ? 1U : 0U;
  }
  return faults;
}

OrError<void> write_order_lines(const Shop& shop, const Write& write) {
  PEAR_TRY(write("Order No;Line;Article;Qty;Price\n"));
  std::string text;
  std::string again;
  std::size_t reexported = 0;
  for (std::size_t order = 0; order < shop.orders.size(); ++order) {
    text.clear();
    const Order& is = shop.orders[order];
    for (std::uint64_t at = is.first_line; at < is.first_line + is.line_count; ++at) {
      text += line_row(shop, order, at);
      const bool twice = messy(shop) && order * 2 > shop.orders.size() && reexported < kReexported;
      if (!twice) continue;
      again += line_row(shop, order, at);
      ++reexported;
    }
    PEAR_TRY(write(text));
  }
  if (!messy(shop)) return {};
  for (std::size_t i = 0; i < kImpossibleDates + kMissingCustomers; ++i)
    again += fmt::format("{};1;P{};1;4,80\n", order_id(shop.orders.size() + i), 23 + i);
  return write(again);
}

OrError<void> write_orders(const Shop& shop, const Write& write) {
  PEAR_TRY(write("Order No;Order Date;Customer No;Channel\n"));
  for (std::size_t order = 0; order < shop.orders.size(); ++order) {
    const Order& is = shop.orders[order];
    std::string customer = customer_id(is.customer);
    if (messy(shop) && has_spaced_id(order)) customer = " " + customer + " ";
    if (messy(shop) && has_lower_case_id(order)) customer.front() = 'c';
    PEAR_TRY(write(fmt::format("{};{};{};{}\n", order_id(order), german_date(is.date), customer,
                               is.by_telephone ? "telephone" : "web")));
  }
  return messy(shop) ? write(faulty_orders(shop)) : OrError<void>{};
}

OrError<void> write_products(const Shop& shop, const Write& write) {
  std::string text = "Article;Description;Category;Cost;List price\n";
  const auto listed = assortment().first(kListedProducts);
  for (std::uint32_t i = 0; i < listed.size(); ++i)
    for (std::uint32_t variant = 0; variant < shop.variants(i); ++variant)
      text +=
          fmt::format("{};{};{};{};{}\n", product_id(i, variant), product_name(i, variant),
                      listed[i].category, with_comma(listed[i].unit_cost), with_comma(listed[i].list_price));
  return write(text);
}

OrError<void> write_customers(const Shop& shop, const Write& write) {
  PEAR_TRY(write("Customer No;Name;E-Mail;Kind;Region;Town;Changed;\n"));
  const std::vector<bool> bought = with_orders(shop);
  for (std::uint32_t customer = 0; customer < shop.customers.size(); ++customer) {
    if (!bought[customer]) continue;
    bool moves = false;
    for (std::uint32_t i = 0; i < kMoved; ++i) moves |= messy(shop) && customer == moved(i);
    if (moves) PEAR_TRY(write(as_windows_1252(customer_row(shop, customer, true))));
    PEAR_TRY(write(as_windows_1252(customer_row(shop, customer, false))));
  }
  return {};
}

std::string_view intake_file() {
  return R"(# How the exports of Thistledown & Reel become a daybook. docs/intake-file.md describes all keys.

[shop]
name = "Thistledown & Reel"
currency = "EUR"

[lines]
file = "order-lines.csv"
decimal = ","

[lines.columns]
order_id = "Order No"
line_no = "Line"
product_id = "Article"
quantity = "Qty"
unit_price = "Price"

[orders]
file = "orders.csv"
date_format = "%d.%m.%Y"
trim = ["customer_id"]
fold_case = ["customer_id"]          # c131 and C131 are one customer

[orders.columns]
order_id = "Order No"
order_date = "Order Date"
customer_id = "Customer No"

[products]
file = "products.csv"
decimal = ","

[products.columns]
product_id = "Article"
product_name = "Description"
unit_cost = "Cost"
list_price = "List price"

[customers]
file = "customers.csv"
encoding = "Windows-1252"
date_format = "%d.%m.%Y"
trim = ["region"]
fold_case = ["region"]
latest_by = "changed"                # keeps the newest row of each customer

[customers.columns]
customer_id = "Customer No"
email = "E-Mail"
customer_kind = "Kind"

# Some lines were exported twice.
[[duplicates]]
in = "lines"
same = ["order_id", "line_no"]
keep = "first"

[groups.buyer]
from = "customer_kind"
private = ["knitter", "sewer", "spinner", "dyer"]
trade = ["workroom", "school", "club"]

[bands.pieces]
from = "quantity"
edges = [1, 3, 6, 12]
)";
}

}  // namespace pear::demo
