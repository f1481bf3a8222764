// Which column of a file plays which part.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/role.hpp"

namespace pear {

/// What the user said of a column: the role and the header of the column that plays it.
struct RoleAssignment {
  std::string role;
  std::string header;
};

/// Reads "order_id=Order No,order_date=\"Placed, at\"": pairs behind commas, headers in double quotes where
/// they hold a comma. Errors: usage, for what is not such a pair.
[[nodiscard]] OrError<std::vector<RoleAssignment>> parse_assignments(std::string_view text);

struct HeaderMap {
  struct Extra {
    std::size_t column = 0;  ///< position in the file
    std::string name;        ///< unique, snake_case
  };
  std::array<std::optional<std::size_t>, kRoles> positions;  ///< by Role
  std::vector<Extra> extras;
  std::vector<std::string> notes;  ///< names that had to be made up or changed

  [[nodiscard]] std::optional<std::size_t> position(Role role) const {
    return positions[static_cast<std::size_t>(role)];
  }
};

/// Finds the roles in a header: by assignment, otherwise by name ("Order ID" is order_id). All other columns
/// come along under their snake_case name; a blank one is column_N, a name that is taken gets a number.
/// Errors: usage for an assignment that names an unknown role or column; data for missing roles, naming them
/// and the nearest headers. `file` is for the messages.
[[nodiscard]] OrError<HeaderMap> map_header(const std::vector<std::string>& header,
                                            const std::vector<RoleAssignment>& assignments,
                                            const std::string& file);

}  // namespace pear
