// The counts of concentration: members ranked by a figure.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "expression/aggregate/grouped.hpp"
#include "expression/aggregate/grouping.hpp"
#include "questions/concentration/options.hpp"
#include "questions/concentration/ranking.hpp"
#include "result/table.hpp"

namespace pear::concentration {

/// A ranking for each combination of values of --by, or one for all.
struct RankedGroups {
  std::vector<std::string> names;                 ///< of --by
  std::vector<expression::GroupKey> keys;         ///< of --by
  std::vector<std::vector<std::uint32_t>> codes;  ///< by key, then by group
  std::vector<Ranking> rankings;                  ///< by group; members are codes of the key that is ranked

  [[nodiscard]] bool is_split() const { return !keys.empty(); }
  [[nodiscard]] std::string label(std::size_t group) const;
};

/// Everything that concentration computes.
struct Counts {
  Options options;
  const daybook::Daybook& daybook;  ///< borrowed
  expression::GroupKey of;
  std::string of_name, figure_name;
  result::Unit unit = result::Unit::money;
  RankedGroups groups;
  /// The figure over all lines, if it is the sum of its parts; units of Decimal.
  std::optional<std::int64_t> whole;
  RankedGroups compared;  ///< by --compare; without rankings if it was not requested

  [[nodiscard]] std::string of_plural() const;
};

/// The figure that members are ranked by. Errors: usage, naming the option.
[[nodiscard]] OrError<expression::GroupedExpression> figure_of(const Options& options,
                                                               const expression::LineView& lines);

/// What the options and the figure say, before anything is counted.
[[nodiscard]] Counts without_groups(const Options& options, const daybook::Daybook& daybook,
                                    const expression::GroupedExpression& figure);

/// See ask(). Errors: usage, if an expression does not fit.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::concentration
