#include "intake/role.hpp"

namespace pear {

const std::array<RoleInfo, kRoles>& roles() {
  static constexpr std::array<RoleInfo, kRoles> kTable = {{
      {role::kOrderId, true},
      {role::kOrderDate, true},
      {role::kCustomerId, true},
      {role::kProductId, true},
      {role::kQuantity, true},
      {role::kUnitPrice, true},
      {role::kAmount, false},
      {role::kUnitCost, false},
      {role::kListPrice, false},
  }};
  return kTable;
}

std::vector<std::string> role_names() {
  std::vector<std::string> names;
  for (const RoleInfo& info : roles()) names.emplace_back(info.name);
  return names;
}

std::span<const std::string_view> reserved_names() {
  static constexpr std::array<std::string_view, 21> kNames = {role::kOrderTime,
                                                              role::kIsReturn,
                                                              "cost",
                                                              "margin",
                                                              "year",
                                                              "quarter",
                                                              "month",
                                                              "month_of_year",
                                                              "week",
                                                              "weekday",
                                                              "hour",
                                                              "first_order_date",
                                                              "first_year",
                                                              "first_month",
                                                              "last_order_date",
                                                              "customer_orders",
                                                              "customer_products",
                                                              "customer_amount",
                                                              "orders",
                                                              "customers",
                                                              "products"};
  return kNames;
}

}  // namespace pear
