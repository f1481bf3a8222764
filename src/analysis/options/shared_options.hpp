// Options that mean the same in every question.
#pragma once

#include <vector>

#include "analysis/options/main_rows.hpp"
#include "analysis/options/option.hpp"
#include "analysis/options/selection.hpp"
#include "analysis/question.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::analysis {

struct SharedOptions {
  Selection selection;
  std::vector<expression::Tree> with;  ///< columns of customers or products, shown next to their ids
  MainRows rows;                       ///< empty for a question that arranges its rows itself
};

/// The declarations, without those that the question declares itself.
[[nodiscard]] std::vector<OptionInfo> shared_options(const Question& question);

/// Error: usage.
[[nodiscard]] OrError<SharedOptions> read_shared_options(const Question& question,
                                                         const OptionValues& values);

}  // namespace pear::analysis
