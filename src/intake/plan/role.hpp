// The roles that columns of raw data can have.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "daybook/daybook.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// How the values of a column are read.
enum class ColumnKind : std::uint8_t { text, number, moment };

struct RoleInfo {
  std::string_view name;
  ColumnKind kind = ColumnKind::text;
  std::array<bool, kTableKinds> may_stand_in{};  ///< by TableKind
  bool needed = false;  ///< by the lines, or by the table that the lines are joined to
};
constexpr std::size_t kRoles = 12;

[[nodiscard]] const std::array<RoleInfo, kRoles>& roles();
/// Of the roles that a line can have, by itself or through a table that it is joined to.
[[nodiscard]] std::vector<std::string> role_names();
/// The role of this name that a table's column may have; null if there is none.
[[nodiscard]] const RoleInfo* find_role(std::string_view name, TableKind table);

/// Names that no other column of a daybook may have, because they have a fixed meaning.
[[nodiscard]] std::span<const std::string_view> reserved_names();

}  // namespace pear::intake
