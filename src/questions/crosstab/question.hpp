// crosstab: any figures, by anything down and across.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "result/result.hpp"

namespace pear::crosstab {

/// Of what a cell's figure is shown as a share.
enum class ShareOf : std::uint8_t { row, column, parent, all };
enum class Direction : std::uint8_t { down, across };
enum class EmptyCells : std::uint8_t { zero, blank };

/// What figures of any kind are compared with: the same figure of a larger cell.
struct Comparison {
  std::string with;  ///< as it was given
  ShareOf of = ShareOf::parent;
  std::optional<std::size_t> depth;  ///< of the row above that is compared with, in place of `of`
};

struct Options {
  std::vector<expression::Tree> down, across;  ///< from the outside in
  std::vector<expression::Tree> figures;
  std::vector<ShareOf> shares;
  bool shares_only = false;
  std::vector<Comparison> against;
  std::optional<Direction> running;
  std::optional<expression::Tree> having;
  std::vector<expression::SortKey> sort;
  std::optional<std::int64_t> top;  ///< places of each level that are kept; the rest is gathered in "other"
  EmptyCells empty = EmptyCells::zero;
  std::optional<std::int64_t> limit;
  std::int64_t offset = 0;
  std::vector<std::pair<std::string, std::string>>
      details;  ///< keys and values of the cell whose lines are wanted
};

/// Tables: the cross-tabulation as people read it, with subtotals and totals; the same with one row a cell;
/// the lines behind a cell where they are asked for. Every total is made from its own lines. Figures are
/// exact but for divisions, which have four places. Cost: a pass over the lines for each aggregate and each
/// pair of depths of the two axes. Errors: usage, where expressions do not fit, or there are more than 16,000
/// columns or 20 million cells; data, where a sum leaves the range of Decimal.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::crosstab
