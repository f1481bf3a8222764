// The parts that columns of raw data can play.
#pragma once

#include <array>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "daybook/daybook.hpp"

namespace pear {

/// In the order of `roles()`, which index the column positions of a HeaderMap.
enum class Role : std::uint8_t {
  order_id,
  order_date,
  customer_id,
  product_id,
  quantity,
  unit_price,
  amount,
  unit_cost,
  list_price,
};
constexpr std::size_t kRoles = 9;

struct RoleInfo {
  std::string_view name;
  bool required = false;
};

[[nodiscard]] const std::array<RoleInfo, kRoles>& roles();
[[nodiscard]] std::vector<std::string> role_names();

/// Names that no other column of a daybook may bear, because the daybook itself gives them a meaning.
[[nodiscard]] std::span<const std::string_view> reserved_names();

}  // namespace pear
