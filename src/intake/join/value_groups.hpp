// Derived columns: groups of values, and bands of numbers.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

/// A value without a group in [groups.NAME].
struct UngroupedValue {
  std::string group;  ///< the derived column
  std::string value;
  std::uint64_t rows = 0;  ///< of the table that contains the value
  TableKind table = TableKind::lines;
};

/// Most frequent first in each group, then in natural order of the values.
void sort_ungrouped(std::vector<UngroupedValue>& values);

/// Adds the columns of [groups] and [bands]. A value without a group becomes the group's `other`, or keeps
/// its value if there is none; it is listed in both cases. Errors: data, if the column is missing, or a
/// band's column does not contain numbers.
[[nodiscard]] OrError<std::vector<UngroupedValue>> add_groups_and_bands(const IntakePlan& plan,
                                                                        JoinedLines& lines);

/// The name of a band: "below 1", "1 to 5", "6 to 23", "24 or more" if all numbers are whole; otherwise "1 to
/// under 6".
[[nodiscard]] std::vector<std::string> band_names(const std::vector<Decimal>& edges, bool whole);

}  // namespace pear::intake
