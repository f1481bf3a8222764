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

/// Adds the columns of [groups]. A value without a group becomes the group's `other`, or keeps its value if
/// there is none; it is listed in both cases. Errors, here and below: data, if a column is missing, or has
/// the wrong type.
[[nodiscard]] OrError<std::vector<UngroupedValue>> add_groups(const IntakePlan& plan, JoinedLines& lines);

/// Whether all numbers of a band's column and its edges are whole, which decides on the names of the bands.
[[nodiscard]] OrError<bool> is_whole(const Band& band, JoinedLines& lines);

/// Adds the column of a band.
[[nodiscard]] OrError<void> add_band(const Band& band, bool whole, JoinedLines& lines);

/// The name of a band: "below 1", "1 to 5", "6 to 23", "24 or more" if all numbers are whole; otherwise "1 to
/// under 6".
[[nodiscard]] std::vector<std::string> band_names(const std::vector<Decimal>& edges, bool whole);

}  // namespace pear::intake
