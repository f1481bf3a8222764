// The tables, headline and figures of concentration.
#pragma once

#include <string>
#include <vector>

#include "expression/grouped.hpp"
#include "expression/grouping.hpp"
#include "question/concentration.hpp"
#include "question/ranking.hpp"

namespace pear {

/// A ranking for each combination of values of --by, or one for all.
struct RankedGroups {
  std::vector<std::string> names;                 ///< of --by
  std::vector<GroupKey> keys;                     ///< of --by
  std::vector<std::vector<std::uint32_t>> codes;  ///< by key, then by group
  Grouping
      cells;  ///< of lines; kept, since figures remember what cells came to for as long as these are there
  std::vector<Ranking> rankings;  ///< by group; members are codes of the key that is ranked

  [[nodiscard]] bool is_split() const { return !keys.empty(); }
  [[nodiscard]] std::string label(std::size_t group) const;
};

/// All that concentration found.
struct ConcentrationFinding {
  const ConcentrationOptions& options;
  const Daybook& daybook;
  GroupKey of;
  std::string of_name, figure_name;
  Unit unit = Unit::money;
  RankedGroups groups;
  RankedGroups compared;  ///< by --compare; without rankings where it was not asked for

  [[nodiscard]] std::string of_plural() const;
};

[[nodiscard]] Table ranking_table(const ConcentrationFinding& finding);
[[nodiscard]] Table classes_table(const ConcentrationFinding& finding);
/// A row for each group: how few bring how much.
[[nodiscard]] Table concentration_summary(const ConcentrationFinding& finding, const RankedGroups& groups,
                                          const std::string& part);
[[nodiscard]] std::vector<std::string> concentration_headline(const ConcentrationFinding& finding);
[[nodiscard]] std::vector<Figure> concentration_figures(const ConcentrationFinding& finding);

}  // namespace pear
