// Which rows of a cross-tabulation are shown, and in what order.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "questions/crosstab/cube.hpp"
#include "questions/crosstab/options.hpp"

namespace pear::crosstab {

/// The axis down with its places chosen and sorted by --having, --sort and --keep, and what was left out.
struct ChosenRows {
  Axis axis;
  std::uint64_t not_having = 0;  ///< leaves that do not meet --having
  std::uint64_t gathered = 0;    ///< places that are in "other" now
};

/// Places that do not meet --having are removed from the tree, so they are not shown; their lines still count
/// in totals. Places beyond --keep are combined in one place of their parent, computed from their lines.
[[nodiscard]] OrError<ChosenRows> choose_rows(Axis down, const expression::LineCells& cells,
                                              const expression::LineView& lines, const Options& options,
                                              const std::vector<expression::GroupedExpression>& figures);

/// The columns with at most `most` values of each level: those with the largest first figure, and the others
/// combined. Returns how many are combined. Error: as above.
[[nodiscard]] OrError<std::uint64_t> combine_columns(Axis& across, const expression::LineCells& cells,
                                                     const expression::GroupedExpression& figure,
                                                     std::int64_t most);

}  // namespace pear::crosstab
