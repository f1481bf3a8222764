// crosstab: any figures, by any columns down and across.
#pragma once

#include <vector>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "expression/rows/line_view.hpp"
#include "questions/crosstab/counts.hpp"
#include "questions/crosstab/options.hpp"
#include "result/result.hpp"

namespace pear::crosstab {

/// Tables: the cross-tabulation with subtotals and totals; the same with one row a cell; the lines of a cell
/// if requested. Every total is computed from its own lines. Figures are exact except for divisions, which
/// have four places. Cost: a pass over the lines for each aggregate and each pair of depths of the two axes.
/// Errors: usage, if expressions do not fit, or there are more than 16,000 columns or 20 million cells; data,
/// if a sum is out of the range of Decimal.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

/// The options without the columns of a customer or product that follow its id in --down: they are shown next
/// to the id and make no level.
struct WithoutLabels {
  Options options;
  std::vector<expression::Tree> labels;
};
[[nodiscard]] WithoutLabels without_labels(const Options& options, const expression::LineView& lines);

/// The result of counts that may come from elsewhere, without --details. Of `members`, the values of
/// customers and products are read.
[[nodiscard]] OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input,
                                                const WithoutLabels& chosen,
                                                const expression::LineView& members);

[[nodiscard]] analysis::Question question();

}  // namespace pear::crosstab
