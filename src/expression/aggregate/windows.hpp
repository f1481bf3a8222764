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

/// A window as a column, and what its values depend on.
struct WindowColumn {
  daybook::Column column;
  Grain grain = grain::kConstant;
};

/// The daybook with a column for each window, computed over all its lines, so call it before selecting. A
/// window becomes a column of the level that its partition determines. Windows of the same name are one.
/// Errors: usage and data, see Aggregate.
[[nodiscard]] OrError<WithWindows> add_windows(daybook::Daybook daybook, const std::vector<Window>& windows);

}  // namespace pear::expression
