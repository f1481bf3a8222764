// Roles are recognised by values: random shops whose headers mean nothing, in any order of columns.
#include <algorithm>
#include <map>
#include <random>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "intake/inspect/inspection.hpp"
#include "support/random_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

using Row = std::map<std::string, std::string>;

/// Lines with ids, names and attributes; `numeric` ids are whole numbers.
struct FlatShop {
  std::vector<Row> rows;
  bool has_amount = true;
};

FlatShop random_flat_shop(int fewest_customers = 15) {  // fewer may each have a seller of their own
  std::mt19937 random(static_cast<unsigned>(pick(0, 1'000'000)));
  const auto upto = [&](int most) { return static_cast<int>(random() % static_cast<unsigned>(most)); };
  const bool numeric_orders = pick(0, 1) == 1, numeric_products = pick(0, 1) == 1;
  const int customers = pick(fewest_customers, 40), products = pick(8, 60), orders = 4 * customers;
  FlatShop shop;
  shop.has_amount = pick(0, 1) == 1;
  const bool has_noise = pick(0, 1) == 1;
  std::vector<int> prices;
  for (int product = 0; product < products; ++product) prices.push_back(105 + 7 * upto(500));
  for (int order = 0; order < orders; ++order) {
    const int customer = upto(customers), day = upto(300);
    const int lines = 1 + upto(5);
    std::vector<int> basket;
    for (int line = 0; line < lines; ++line) {
      const int product = upto(products);
      if (std::find(basket.begin(), basket.end(), product) != basket.end()) continue;
      basket.push_back(product);
      const int quantity = 1 + upto(6);
      Row row;
      row["order_id"] = numeric_orders ? std::to_string(70'001 + order) : fmt::format("R{}", 1000 + order);
      row["order_date"] = fmt::format("2024-{:02}-{:02}", 1 + day / 28, 1 + day % 28);
      row["customer_id"] = fmt::format("K{}", 100 + customer);
      row["customer_name"] =
          fmt::format("{} Somebody", std::string(1 + static_cast<std::size_t>(customer) % 20, 'a') +
                                         std::string(1 + static_cast<std::size_t>(customer) / 20, 'b'));
      row["region"] = customer % 3 == 0 ? "North" : "South";
      row["product_id"] = numeric_products ? std::to_string(4'000 + product) : fmt::format("A-{}", product);
      row["category"] = product % 4 == 0 ? "yarn" : "thread";
      row["quantity"] = std::to_string(quantity);
      row["unit_price"] = fmt::format("{}.{:02}", prices[static_cast<std::size_t>(product)] / 100,
                                      prices[static_cast<std::size_t>(product)] % 100);
      const int amount = quantity * prices[static_cast<std::size_t>(product)];
      if (has_noise) {
        row["line_no"] = std::to_string(basket.size());
        row["tax"] = product % 3 == 0 ? "7" : "19";
        row["delivered"] = fmt::format("2024-{:02}-{:02}", 1 + (day + 3) / 28, 1 + (day + 3) % 28);
        row["since"] = fmt::format("2021-{:02}-05", 1 + customer % 12);
        row["seller"] = fmt::format("S{}", customer % 4);
        row["payment"] = order % 3 == 0 ? "card" : "invoice";
      }
      if (shop.has_amount) row["amount"] = fmt::format("{}.{:02}", amount / 100, amount % 100);
      shop.rows.push_back(row);
    }
  }
  return shop;
}

/// What inspect takes each column for, by its true meaning.
std::map<std::string, std::string> recognised(const FlatShop& shop, const TemporaryFolder& folder) {
  std::vector<std::string> names;
  for (const auto& [name, value] : shop.rows.front()) names.push_back(name);
  std::shuffle(names.begin(), names.end(), std::mt19937(static_cast<unsigned>(pick(0, 1'000'000))));
  std::string text;
  for (std::size_t i = 0; i < names.size(); ++i) text += fmt::format("{}x{}", i == 0 ? "" : ",", i);
  text += "\n";
  for (const Row& row : shop.rows)
    for (std::size_t i = 0; i < names.size(); ++i)
      text += row.at(names[i]) + (i + 1 == names.size() ? "\n" : ",");
  sources::TableAddress address;
  address.file = folder.write("s.csv", text);
  const auto seen = *intake::inspect_sources({address}, [](const intake::ImportProgress&) {});
  std::map<std::string, std::string> roles;
  const auto& columns = seen.guess.tables.at(0).columns;
  for (std::size_t i = 0; i < names.size(); ++i) roles[names[i]] = columns[i].is_role ? columns[i].name : "";
  return roles;
}

/// Receipts without customers: neither branches nor sellers are taken for them.
RC_GTEST_PROP(RolesByValues, NoCustomerIsInvented, ()) {
  const TemporaryFolder folder;
  FlatShop shop = random_flat_shop(40);
  for (Row& row : shop.rows) {
    row.erase("customer_id");
    row.erase("customer_name");
    row["branch"] = fmt::format("B{}", row.at("order_id").back());
    row["branch"].back() = row["branch"].back() < '5' ? '1' : '2';
  }
  for (const auto& [column, role] : recognised(shop, folder)) RC_ASSERT(role != "customer_id");
}

RC_GTEST_PROP(RolesByValues, AreThoseOfTheColumns, ()) {
  const TemporaryFolder folder;
  const FlatShop shop = random_flat_shop();
  const auto roles = recognised(shop, folder);
  std::string all;
  for (const auto& [column, role] : roles) all += fmt::format(" {}={}", column, role);
  for (const char* role : {"order_id", "order_date", "customer_id", "product_id", "quantity", "unit_price"})
    if (roles.at(role) != role)
      RC_FAIL(fmt::format("{} was not recognised:{}\n{}", role, all, read_file(folder / "s.csv")));
  if (shop.has_amount) RC_ASSERT(roles.at("amount") == "amount");
  for (const char* other :
       {"customer_name", "region", "category", "line_no", "tax", "delivered", "since", "seller", "payment"})
    if (roles.contains(other) && !roles.at(other).empty())
      RC_FAIL(fmt::format("{} was taken for {}", other, roles.at(other)));
}

}  // namespace
}  // namespace pear::test
