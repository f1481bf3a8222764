#include "questions/together/finding.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::together {
namespace {

std::string pair_sentence(const Counts& counts, const ItemPair& pair) {
  return fmt::format(
      "Most often together: {} and {}, in {} of {} baskets ({}), {:.1f} times as often as by chance.",
      counts.title(pair.a), counts.title(pair.b), analysis::number(pair.both),
      analysis::number(counts.baskets.size()), analysis::per_cent(pair.both / counts.size()),
      counts.lift(pair));
}

/// The first of the significant rules, of those with one item given where there is any: they are in the order
/// of their lower bounds.
const ItemRule* surest_rule(const Counts& counts) {
  const ItemRule* first = nullptr;
  for (const ItemRule& rule : counts.rules) {
    if (rule.q > statistics::kFalseDiscovery) continue;
    if (rule.given.size() == 1) return &rule;
    if (first == nullptr) first = &rule;
  }
  return first;
}

std::string rule_sentence(const Counts& counts, const ItemRule& rule) {
  std::vector<std::string> given;
  for (const std::uint32_t code : rule.given) given.push_back(counts.title(code));
  return fmt::format("Who takes {} takes {} too in {} of {} baskets ({}); of all baskets {} hold it.",
                     join(given, " and "), counts.title(rule.also), analysis::number(rule.baskets),
                     analysis::number(rule.given_baskets),
                     analysis::per_cent(static_cast<double>(rule.baskets) / rule.given_baskets),
                     analysis::per_cent(counts.count(rule.also) / counts.size()));
}

std::string about_sentence(const Counts& counts) {
  const std::uint32_t item = *counts.about;
  return fmt::format("{} stands in {} baskets, in {} of these alone ({}).", counts.title(item),
                     analysis::number(counts.baskets.counts[item]),
                     analysis::number(counts.baskets.alone[item]),
                     analysis::per_cent(counts.baskets.alone[item] / counts.count(item)));
}

}  // namespace

std::vector<const ItemPair*> found_pairs(const Counts& counts) {
  std::vector<const ItemPair*> found;
  for (const ItemPair& pair : counts.pairs)
    if (counts.is_found(pair)) found.push_back(&pair);
  return found;
}

std::string companion_sentence(const Counts& counts) {
  const std::string what = counts.title(*counts.about);
  const std::vector<const ItemPair*> found = found_pairs(counts);
  if (found.empty())
    return fmt::format("Nothing is bought with {} more often than chance would have it ({} tested).", what,
                       counted(counts.pairs_tested, "pair"));
  const ItemPair& best = *found.front();
  return fmt::format("{} goes with {}: in {} of its baskets ({}), {:.1f} times as often as by chance.", what,
                     counts.title(best.b), analysis::number(best.both),
                     analysis::per_cent(best.both / counts.count(best.a)), counts.lift(best));
}

std::vector<std::string> headline_of(const Counts& counts) {
  const std::vector<const ItemPair*> found = found_pairs(counts);
  std::vector<std::string> headline;
  if (counts.about) {
    headline = {about_sentence(counts), companion_sentence(counts)};
  } else if (found.empty()) {
    return {fmt::format("No two {} are bought together more often than chance would have it ({} tested).",
                        analysis::plural_of(counts.item), counted(counts.pairs_tested, "pair"))};
  } else {
    headline = {pair_sentence(counts, *found.front())};
  }
  if (const ItemRule* rule = surest_rule(counts)) headline.push_back(rule_sentence(counts, *rule));
  return headline;
}

result::Definitions definitions_of(const Counts& counts) {
  return {{"basket", fmt::format("the different {} of {}, returns left out", analysis::plural_of(counts.item),
                                 mining::describe_baskets(counts.options.within))},
          {"support", "baskets with all of them, as a share of all baskets"},
          {"confidence_ab", "of the baskets with a, the share that hold b"},
          {"expected", "baskets with both if neither had to do with the other: a x b / all"},
          {"lift", "both by expected"},
          {"p_value", "Fisher's exact test, one-sided: so many or more together by chance"},
          {"q_value",
           fmt::format("Benjamini and Hochberg over {} tested", counted(counts.pairs_tested, "pair"))}};
}

void add_notes(const Counts& counts, result::Result& result) {
  result.notes.push_back(fmt::format(
      "Support: {} of {} or more{}.{}", counted(counts.least, "basket"),
      with_thousands(static_cast<std::int64_t>(counts.baskets.size())),
      counts.options.support ? "" : ", chosen by the number of baskets (--support chooses another)",
      counts.about && !counts.options.support ? " Pairs are listed whatever their support." : ""));
  std::uint64_t found = 0;
  for (const ItemPair& pair : counts.pairs) found += counts.is_found(pair) ? 1U : 0U;
  result.notes.push_back(
      fmt::format("{} tested; {} of those listed {} more often together than chance would have it "
                  "(q <= 0.05).",
                  counted(counts.pairs_tested, "pair"), with_thousands(static_cast<std::int64_t>(found)),
                  found == 1 ? "is" : "are"));
}

void add_checks(const Counts& counts, result::Result& result) {
  bool fits = true;
  for (const ItemPair& pair : counts.pairs)
    fits = fits && pair.both <= std::min(counts.baskets.counts[pair.a], counts.baskets.counts[pair.b]);
  result.checks.push_back({"no pair is in more baskets than either of the two", fits});
  std::uint64_t alone = 0, held = 0;
  for (const std::uint32_t count : counts.baskets.alone) alone += count;
  for (const std::uint32_t count : counts.baskets.counts) held += count;
  std::uint64_t items = 0, single = 0;
  for (std::size_t basket = 0; basket < counts.baskets.size(); ++basket) {
    items += counts.baskets.of(basket).size();
    single += counts.baskets.of(basket).size() == 1 ? 1U : 0U;
  }
  result.checks.push_back({fmt::format("the baskets of each {} add up to the {} in all {}", counts.item,
                                       counted(items, counts.item, analysis::plural_of(counts.item)),
                                       counted(counts.baskets.size(), "basket")),
                           items == held && single == alone});
}

}  // namespace pear::together
