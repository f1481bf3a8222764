#include "pushdown/questions/concentration.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "base/text.hpp"
#include "questions/concentration/question.hpp"

namespace pear::pushdown {
namespace {

using expression::GroupedExpression;

/// See concentration::Counts: members with a line, ranked by the figure of their lines, for each combination
/// of the values of `by`.
OrError<concentration::RankedGroups> rank(const std::string& option, const std::vector<expression::Tree>& by,
                                          const SqlKey& of, const GroupedExpression& figure,
                                          const SelectedLines& lines, expression::GroupKey& labels) {
  PEAR_ASSIGN(std::vector<SqlKey> keys, keys_of(option, by, lines));
  keys.push_back(of);
  PEAR_ASSIGN(GroupedLines grouped, group_lines(lines, keys, {figure}));
  concentration::RankedGroups ranked;
  for (const expression::Tree& tree : by) ranked.names.push_back(tree.name);
  ranked.codes.resize(by.size());
  const expression::Values& values = grouped.figures.front();
  for (std::uint32_t begin = 0, end = 0; begin < grouped.groups; begin = end) {
    std::vector<concentration::Ranked> members;
    for (; end < grouped.groups && grouped.same_first(begin, end, by.size()); ++end) {
      const bool filled = values.states[end] == expression::ValueState::filled;
      members.push_back({grouped.codes.back()[end], filled ? values.numbers[end] : 0});
    }
    for (std::size_t i = 0; i < by.size(); ++i) ranked.codes[i].push_back(grouped.codes[i][begin]);
    ranked.rankings.emplace_back(std::move(members));
  }
  labels = std::move(grouped.keys.back());
  grouped.keys.pop_back();
  ranked.keys = std::move(grouped.keys);
  return ranked;
}

/// The figure over all lines, if it adds up over what is ranked.
OrError<std::optional<std::int64_t>> whole_of(const concentration::Counts& counts,
                                              const GroupedExpression& figure, const SelectedLines& lines) {
  expression::Grain parts = counts.of.grain;
  for (const expression::GroupKey& key : counts.groups.keys) parts |= key.grain;
  if (!figure.adds_up(parts)) return std::nullopt;
  PEAR_ASSIGN(const GroupedLines whole, group_lines(lines, {}, {figure}));
  return whole.figures.front().numbers[0];
}

}  // namespace

OrError<result::Result> answer_concentration(const analysis::OptionValues& values, const SelectedLines& lines,
                                             const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const concentration::Options options, concentration::read(values));
  PEAR_ASSIGN(const GroupedExpression figure, concentration::figure_of(options, lines.scope.schema));
  PEAR_ASSIGN(const std::vector<SqlKey> of, keys_of("per", {*options.per}, lines));
  concentration::Counts counts = concentration::without_groups(options, input.daybook, figure);
  PEAR_ASSIGN(counts.groups, rank("by", options.by, of.front(), figure, lines, counts.of));
  if (options.compare) {
    PEAR_ASSIGN(counts.compared, rank("compare", {*options.compare}, of.front(), figure, lines, counts.of));
  }
  PEAR_ASSIGN(counts.whole, whole_of(counts, figure, lines));
  if (lines.session.explains()) return result::Result{};
  return concentration::result_of(counts, input);
}

}  // namespace pear::pushdown
