// concentration: how few bring how much.
#pragma once

#include <optional>
#include <vector>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "result/result.hpp"

namespace pear::concentration {

struct Options {
  std::optional<expression::Tree> of;    ///< whose shares are looked at; customers where left out
  std::optional<expression::Tree> show;  ///< the figure that is shared out; the sum of amounts where left out
  std::vector<expression::Tree> by;      ///< a ranking of its own for each value
  std::optional<expression::Tree>
      compare;  ///< the same for each value of it, told in short: whether it grows
  std::vector<std::int64_t> classes = {800'000,
                                       950'000};  ///< ends of classes A and B, units of Decimal of per cent
};

/// Members of a column ranked by a figure, with running shares (the Pareto curve), classes and the Gini
/// coefficient. Figures at or below 0 count as 0 in shares, and a note tells of them. O(lines) on all
/// threads, and a sort of the members. Errors: usage, where an expression does not fit.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::concentration
