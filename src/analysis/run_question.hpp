// From options and a daybook to an answer.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "analysis/question.hpp"
#include "analysis/selection.hpp"
#include "base/error.hpp"

namespace pear::analysis {

/// A daybook that is yet to be loaded.
struct DaybookSource {
  std::vector<std::string> columns;              ///< that it stores, ids among them
  std::map<std::string, daybook::Level> levels;  ///< of those of its columns that are no ids
  std::string currency;
  std::function<OrError<daybook::Daybook>(const std::vector<std::string>&)> load;  ///< these columns of it
  Progress progress = {};
  std::map<std::string, SideTable> side_tables = {};  ///< see Asked
};

/// Loads the columns that question and selection speak of, works out those that follow from others and
/// aggregates OVER partitions over the whole daybook, selects, and asks. Errors: usage, for a name that is
/// not known; data, where nothing is selected; and those of the question.
[[nodiscard]] OrError<result::Result> run_question(const PreparedQuestion& question,
                                                   const Selection& selection, const DaybookSource& source);

}  // namespace pear::analysis
