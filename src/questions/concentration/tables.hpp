// The tables, headline and figures of concentration.
#pragma once

#include <string>
#include <vector>

#include "expression/aggregate/grouped.hpp"
#include "expression/aggregate/grouping.hpp"
#include "questions/concentration/question.hpp"
#include "questions/concentration/ranking.hpp"

namespace pear::concentration {

/// A ranking for each combination of values of --by, or one for all.
struct RankedGroups {
  std::vector<std::string> names;                 ///< of --by
  std::vector<expression::GroupKey> keys;         ///< of --by
  std::vector<std::vector<std::uint32_t>> codes;  ///< by key, then by group
  expression::Grouping
      cells;  ///< of lines; kept, since figures remember what cells came to for as long as these are there
  std::vector<Ranking> rankings;  ///< by group; members are codes of the key that is ranked

  [[nodiscard]] bool is_split() const { return !keys.empty(); }
  [[nodiscard]] std::string label(std::size_t group) const;
};

/// All that concentration found.
struct Finding {
  const Options& options;
  const daybook::Daybook& daybook;
  expression::GroupKey of;
  std::string of_name, figure_name;
  result::Unit unit = result::Unit::money;
  RankedGroups groups;
  RankedGroups compared;  ///< by --compare; without rankings where it was not asked for

  [[nodiscard]] std::string of_plural() const;
};

[[nodiscard]] result::Table ranking_table(const Finding& finding);
[[nodiscard]] result::Table classes_table(const Finding& finding);
/// A row for each group: how few bring how much.
[[nodiscard]] result::Table summary_table(const Finding& finding, const RankedGroups& groups,
                                          const std::string& part);
[[nodiscard]] std::vector<std::string> headline_of(const Finding& finding);
[[nodiscard]] std::vector<result::Figure> figures_of(const Finding& finding);

}  // namespace pear::concentration
