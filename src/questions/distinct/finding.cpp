#include "questions/distinct/finding.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "statistics/quantile.hpp"

namespace pear::distinct {
namespace {

/// The members counted another way: each row of the table has the same number.
result::Check members_agree(const Counts& counts) {
  std::vector<std::uint32_t> listed(counts.facts.size());
  for (const Member& member : counts.members) ++listed[member.cell];
  bool holds = true;
  for (std::size_t cell = 0; cell < listed.size(); ++cell)
    holds = holds && listed[cell] == counts.facts[cell].distinct;
  return {fmt::format("the list has as many {} as are counted", counts.counted_noun(2)), holds};
}

}  // namespace

std::vector<std::string> headline_of(const Counts& counts) {
  if (counts.rows.empty()) return {"Nothing was bought: all lines are returns."};
  const auto orders_and_lines = [](const CellFacts& facts) {
    return fmt::format("{} of {}", counted(facts.lines, "line"), counted(facts.orders, "order"));
  };
  if (counts.options.per.empty()) {
    const CellFacts& facts = counts.facts[counts.rows.front()];
    return {fmt::format("{} distinct {}, in {}.", with_thousands(std::int64_t{facts.distinct}),
                        counts.counted_noun(facts.distinct), orders_and_lines(facts))};
  }
  const std::vector<std::uint64_t> tallies = cells_by_number(counts.facts);
  const std::uint32_t best = *std::find_if(counts.rows.begin(), counts.rows.end(), [&](std::uint32_t cell) {
    return counts.facts[cell].distinct + 1 == tallies.size();
  });
  const CellFacts& most = counts.facts[best];
  const std::uint64_t same = tallies.back();
  const std::string many = counts.per_plural();
  if (counts.rows.size() == 1)
    return {fmt::format("{}: {} distinct {}, in {}.", counts.label(best), most.distinct,
                        counts.counted_noun(most.distinct), orders_and_lines(most))};
  if (same == counts.rows.size())
    return {fmt::format("All {} have {} distinct {}.", counted(counts.rows.size(), counts.per_noun(), many),
                        most.distinct, counts.counted_noun(most.distinct))};
  const std::int64_t median = *statistics::quantile_of_counts(tallies, statistics::kHalf);
  const std::string who =
      same == 1 ? fmt::format("{} has the most", counts.label(best))
                : fmt::format("{} have the most", with_thousands(static_cast<std::int64_t>(same)));
  return {fmt::format("Half of the {} have {} distinct {} or fewer; {}: {}{}.",
                      counted(counts.rows.size(), counts.per_noun(), many), with_thousands(median),
                      counts.counted_noun(static_cast<std::uint64_t>(median)), who,
                      with_thousands(std::int64_t{most.distinct}),
                      same == 1 ? ", in " + orders_and_lines(most) : "")};
}

void add_notes(const Counts& counts, result::Result& result) {
  if (result.population.returns > 0)
    result.notes.push_back(
        fmt::format("{} not counted: {}.", counted(result.population.returns, "line is", "lines are"),
                    result.population.returns == 1 ? "it is a return" : "they are returns"));
  if (result.population.fee_lines > 0)
    result.notes.push_back(fmt::format("{} not counted: {}.",
                                       counted(result.population.fee_lines, "line is", "lines are"),
                                       result.population.fee_lines == 1 ? "it is a fee" : "they are fees"));
  const std::uint64_t missing = counts.without_value;
  if (missing > 0)
    result.notes.push_back(
        fmt::format("{} no {}; empty values are not counted.",
                    counted(missing, fmt::format("{} has", daybook::to_text(counts.keys.counted.level)),
                            fmt::format("{}s have", daybook::to_text(counts.keys.counted.level))),
                    counts.counted_name()));
}

void add_checks(const Counts& counts, result::Result& result) {
  std::uint64_t lines = 0;
  for (const std::uint32_t cell : counts.rows) lines += counts.facts[cell].lines;
  const std::uint64_t expected =
      result.population.lines - result.population.returns - result.population.fee_lines;
  result.checks.push_back({fmt::format("lines add up to all {} that are not returns{}",
                                       with_thousands(static_cast<std::int64_t>(expected)),
                                       result.population.fee_lines > 0 ? " or fees" : ""),
                           lines == expected});
  result.checks.push_back({"no row has more distinct values than lines, or more orders than lines",
                           std::all_of(counts.facts.begin(), counts.facts.end(), [](const CellFacts& facts) {
                             return facts.distinct <= facts.lines && facts.orders <= facts.lines;
                           })});
  if (counts.options.list) result.checks.push_back(members_agree(counts));
}

}  // namespace pear::distinct
