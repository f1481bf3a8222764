// Columns made of others: values gathered into groups, numbers into bands.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

/// A value that no group of [groups.NAME] names.
struct UngroupedValue {
  std::string group;  ///< the column made
  std::string value;
  std::uint64_t rows = 0;  ///< of the table in which the value stands
};

/// Adds the columns of [groups] and [bands]. A value that no group names becomes the group's `other`, or
/// stays as it is where there is none; either way it is listed. Errors: data, where the column is not there,
/// or a band's is not of numbers.
[[nodiscard]] OrError<std::vector<UngroupedValue>> add_groups_and_bands(const IntakePlan& plan,
                                                                        JoinedLines& lines);

/// What a band is called: "below 1", "1 to 5", "6 to 23", "24 or more" where all is whole; otherwise
/// "1 to under 6".
[[nodiscard]] std::vector<std::string> band_names(const std::vector<Decimal>& edges, bool whole);

}  // namespace pear::intake
