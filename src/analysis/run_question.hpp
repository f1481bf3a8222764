// From options and a daybook to a result.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "analysis/options/shared_options.hpp"
#include "analysis/question.hpp"
#include "analysis/tables/member_labels.hpp"
#include "base/error.hpp"
#include "expression/aggregate/windows.hpp"

namespace pear::analysis {

/// A daybook that has not been loaded yet.
struct DaybookSource {
  std::vector<std::string> columns;              ///< its stored columns, with ids
  std::map<std::string, daybook::Level> levels;  ///< the levels of its columns, without ids
  std::string currency;
  std::function<OrError<daybook::Daybook>(const std::vector<std::string>&)>
      load;  ///< loads these columns of it
  /// Loads them from another daybook whose customers a question learns from, too; may be empty.
  std::function<OrError<daybook::Daybook>(const std::vector<std::string>&)> load_learned = {};
  Progress progress = {};
  std::map<std::string, SideTable> side_tables = {};  ///< see Asked
  std::uint32_t one_in = 0;                           ///< see Population
};

/// All expressions over the lines, each with the option that it was given for.
[[nodiscard]] std::vector<GivenExpression> all_trees(const PreparedQuestion& question,
                                                     const SharedOptions& shared);

/// The columns that question and selection use, derived ones too, and aggregates OVER partitions, over the
/// whole daybook. Errors: usage, for an unknown name; and those of the source.
[[nodiscard]] OrError<expression::WithWindows> prepared_daybook(const PreparedQuestion& question,
                                                                const SharedOptions& shared,
                                                                const DaybookSource& source);

/// Data error: nothing was selected of a population.
[[nodiscard]] tl::unexpected<Error> nothing_selected(const result::Population& whole,
                                                     const std::vector<std::string>& notes,
                                                     const Selection& selection, Date data_end);

/// What a result says of its selection, the same for every question.
struct AskedOf {
  result::Population population;
  std::optional<result::Population> whole;  ///< see QuestionInput
  std::vector<std::string> notes;           ///< on the selection
  std::string currency;
};

/// The result with names and columns next to ids, the chosen rows of its main table, its population and
/// notes. Error: usage.
[[nodiscard]] OrError<result::Result> with_selection(result::Result result, const AskedOf& asked,
                                                     const MemberLabels& labels,
                                                     const PreparedQuestion& question,
                                                     const SharedOptions& shared);

/// Loads the columns that question and selection use, computes derived columns and aggregates OVER partitions
/// over the whole daybook, selects, asks the question, adds names and columns next to ids, and chooses the
/// rows of the main table. Errors: usage, for an unknown name; data, if
/// nothing is selected; and those of the question.
[[nodiscard]] OrError<result::Result> run_question(const PreparedQuestion& question,
                                                   const SharedOptions& shared, const DaybookSource& source);

}  // namespace pear::analysis
