// Which source is which table, by the names of its columns.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "intake/inspect/guess.hpp"

namespace pear::intake {

/// By role, the column of a source whose name fits best.
using NamedRoles = std::array<std::optional<std::size_t>, kRoles>;
[[nodiscard]] NamedRoles named_roles(const SourceProfile& source);
/// The position of a role in it.
[[nodiscard]] std::size_t index_of(std::string_view role);

/// The tables of the sources whose names say what they are, and the sources that are left. Sources with the
/// same header are one table; a source with another header and other ids is a second table of its kind, from
/// another system. A single source is lines.
struct TableChoice {
  std::vector<GuessedTable> tables;
  std::vector<std::size_t> unused;
};
[[nodiscard]] TableChoice choose_tables(const std::vector<SourceProfile>& profiles);

/// Whether two sources have few ids of a table of this kind in common: they come from two systems.
[[nodiscard]] bool have_other_ids(TableKind kind, const SourceProfile& a, const SourceProfile& b);

}  // namespace pear::intake
