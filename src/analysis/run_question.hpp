// From options and a daybook to a result.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "analysis/options/shared_options.hpp"
#include "analysis/question.hpp"
#include "base/error.hpp"

namespace pear::analysis {

/// A daybook that has not been loaded yet.
struct DaybookSource {
  std::vector<std::string> columns;              ///< its stored columns, with ids
  std::map<std::string, daybook::Level> levels;  ///< the levels of its columns, without ids
  std::string currency;
  std::function<OrError<daybook::Daybook>(const std::vector<std::string>&)>
      load;  ///< loads these columns of it
  Progress progress = {};
  std::map<std::string, SideTable> side_tables = {};  ///< see Asked
};

/// Loads the columns that question and selection use, computes derived columns and aggregates OVER partitions
/// over the whole daybook, selects, asks the question, adds names and columns next to ids, and chooses the
/// rows of the main table. Errors: usage, for an unknown name; data, if
/// nothing is selected; and those of the question.
[[nodiscard]] OrError<result::Result> run_question(const PreparedQuestion& question,
                                                   const SharedOptions& shared, const DaybookSource& source);

}  // namespace pear::analysis
