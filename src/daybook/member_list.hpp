// Customers and products of lists that have no line yet.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/text_array.hpp"
#include "daybook/column.hpp"
#include "daybook/line_table.hpp"

namespace pear::daybook {

/// Members of one level, which wait for their first line. A later import may have it, from files in which
/// they are not listed again.
struct MemberList {
  Level level = Level::customer;
  TextArray ids;                     ///< each once
  std::vector<std::string> columns;  ///< without the id
  std::vector<TextArray> values;     ///< by column, then member, as value_text() gives them; empty if unknown
};

/// The list of a level; empty if there is none.
[[nodiscard]] MemberList list_of(const std::vector<MemberList>& lists, Level level);

/// Which values of lines a list replaces.
enum class Replaced : std::uint8_t { empty, all };

/// Gives the lines of listed members the values of the list, in columns of its level that the table has; an
/// empty value replaces nothing. Returns how many values of members differ from those before, where there
/// were any. O(lines x columns of the list).
std::uint64_t fill_from_list(const MemberList& list, Replaced replaced, LineTable& table);

/// The members of both without those of `present`; of those in both, the newer value unless it is empty.
[[nodiscard]] MemberList still_waiting(const MemberList& older, const MemberList& newer,
                                       const TextArray& present);

}  // namespace pear::daybook
