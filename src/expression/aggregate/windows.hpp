// Aggregates OVER partitions, as columns of a daybook.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::expression {

struct WithWindows {
  daybook::Daybook daybook;
  std::map<std::string, Grain> grains;  ///< of the new columns
};

/// The daybook with a column for each window, computed over all its lines: do this before selecting. A
/// window is a column of the level that its partition settles. Windows of one name are one. Errors: usage and
/// data, see Aggregate.
[[nodiscard]] OrError<WithWindows> add_windows(daybook::Daybook daybook, const std::vector<Window>& windows);

}  // namespace pear::expression
