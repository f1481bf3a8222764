#include "intake/plan/role.hpp"

#include <vector>

#include "daybook/columns/derived_columns.hpp"

namespace pear::intake {

const std::array<RoleInfo, kRoles>& roles() {
  constexpr ColumnKind kText = ColumnKind::text;
  constexpr ColumnKind kNumber = ColumnKind::number;
  using Tables = std::array<bool, kTableKinds>;
  constexpr Tables kOfOrder{true, true, false, false, false};
  constexpr Tables kOfProduct{true, false, true, false, false};
  constexpr Tables kOfProductAndPrice{true, false, true, false, true};
  constexpr Tables kOfPrice{false, false, false, false, true};
  constexpr Tables kOfLine{true, false, false, false, false};
  static constexpr std::array<RoleInfo, kRoles> kTable = {{
      {daybook::role::kOrderId, kText, kOfOrder, true},
      {daybook::role::kOrderDate, ColumnKind::moment, kOfOrder, true},
      {daybook::role::kCustomerId, kText, {true, true, false, true, false}, true},
      {daybook::role::kProductId, kText, kOfProductAndPrice, true},
      {daybook::role::kQuantity, kNumber, kOfLine, true},
      {daybook::role::kUnitPrice, kNumber, kOfLine, true},
      {daybook::role::kAmount, kNumber, kOfLine, false},
      {daybook::role::kUnitCost, kNumber, kOfProduct, false},
      {daybook::role::kListPrice, kNumber, kOfProductAndPrice, false},
      {daybook::role::kCurrency, kText, kOfOrder, false},
      {daybook::role::kValidFrom, ColumnKind::moment, kOfPrice, false},
      {daybook::role::kValidTo, ColumnKind::moment, kOfPrice, false},
  }};
  return kTable;
}

const RoleInfo* find_role(std::string_view name, TableKind table) {
  for (const RoleInfo& info : roles()) {
    if (info.name == name && info.may_stand_in.at(static_cast<std::size_t>(table))) return &info;
  }
  return nullptr;
}

std::vector<std::string> role_names() {
  std::vector<std::string> names;
  for (const RoleInfo& info : roles())
    if (info.may_stand_in.front()) names.emplace_back(info.name);
  return names;
}

std::span<const std::string_view> reserved_names() {
  static const std::vector<std::string_view> kNames = [] {
    std::vector<std::string_view> names = {daybook::role::kOrderTime,
                                           daybook::role::kIsReturn,
                                           daybook::role::kIsFee,
                                           "orders",
                                           "customers",
                                           "products",
                                           "lines"};
    names.insert(names.end(), daybook::derived_names().begin(), daybook::derived_names().end());
    return names;
  }();
  return kNames;
}

}  // namespace pear::intake
