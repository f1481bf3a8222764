#include "questions/together/finding.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::together {
namespace {

std::string pair_sentence(const Counts& counts, const ItemPair& pair) {
  return fmt::format("{} and {} are together in {} of {} baskets ({}), {:.1f} times the expected number.",
                     counts.title(pair.a), counts.title(pair.b), analysis::number(pair.both),
                     analysis::number(counts.baskets.size()), analysis::per_cent(pair.both / counts.size()),
                     counts.lift(pair));
}

/// The first of the significant rules, preferably with one item given.
const ItemRule* first_rule(const Counts& counts) {
  const ItemRule* first = nullptr;
  for (const ItemRule& rule : counts.rules) {
    if (!rule.is_found()) continue;
    if (rule.given.size() == 1) return &rule;
    if (first == nullptr) first = &rule;
  }
  return first;
}

/// What is said if no pair is significant. Where no pair is frequent, the support hides what could be.
std::string nothing_sentence(const Counts& counts) {
  const std::string items = analysis::plural_of(counts.item);
  if (counts.largest_pair < counts.least)
    return fmt::format("No two {} reach the support of {} together{}. Use a smaller --support.", items,
                       counted(counts.least, "basket"),
                       counts.largest_pair == 0
                           ? ""
                           : ": the most frequent pair is in " + analysis::number(counts.largest_pair));
  return fmt::format(
      "No two {} are bought together significantly more often than expected by chance ({} tested).", items,
      counted(counts.pairs_tested, "pair"));
}

std::string rule_sentence(const Counts& counts, const ItemRule& rule) {
  std::vector<std::string> given;
  for (const std::uint32_t code : rule.given) given.push_back(counts.title(code));
  return fmt::format("{2} of the {3} baskets with {0} ({4}) also contain {1}; of all baskets, {5} do.",
                     join(given, " and "), counts.title(rule.also), analysis::number(rule.baskets),
                     analysis::number(rule.given_baskets),
                     analysis::per_cent(static_cast<double>(rule.baskets) / rule.given_baskets),
                     analysis::per_cent(counts.count(rule.also) / counts.size()));
}

std::string about_sentence(const Counts& counts) {
  const std::uint32_t item = *counts.about;
  return fmt::format("{} is in {} baskets, and is the only {} in {} of these ({}).", counts.title(item),
                     analysis::number(counts.baskets.counts[item]), counts.item,
                     analysis::number(counts.baskets.single_item[item]),
                     analysis::per_cent(counts.baskets.single_item[item] / counts.count(item)));
}

std::string expected_text(const Counts& counts) {
  return fmt::format(
      "baskets with the combination if {}items were put into baskets at random, so that each item keeps its "
      "number of "
      "baskets and each basket its size",
      counts.period.empty() ? "" : fmt::format("within each {} ", counts.period));
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
    return fmt::format(
        "Nothing is bought with {} significantly more often than expected by chance ({} tested).", what,
        counted(counts.pairs_tested, "pair"));
  const ItemPair& best = *found.front();
  return fmt::format("{} is bought with {} in {} of its baskets ({}), {:.1f} times the expected number.",
                     what, counts.title(best.b), analysis::number(best.both),
                     analysis::per_cent(best.both / counts.count(best.a)), counts.lift(best));
}

std::vector<std::string> headline_of(const Counts& counts) {
  const std::vector<const ItemPair*> found = found_pairs(counts);
  std::vector<std::string> headline;
  if (counts.about) {
    headline = {about_sentence(counts), companion_sentence(counts)};
  } else if (found.empty()) {
    return {nothing_sentence(counts)};
  } else {
    headline = {pair_sentence(counts, *found.front())};
  }
  if (const ItemRule* rule = first_rule(counts)) headline.push_back(rule_sentence(counts, *rule));
  return headline;
}

result::Definitions definitions_of(const Counts& counts) {
  return {{"basket", fmt::format("the distinct {} of {}, without returns", analysis::plural_of(counts.item),
                                 mining::describe_baskets(counts.options.within))},
          {"support", "baskets with all of them, as a share of all baskets"},
          {"confidence_ab", "share of the baskets with a that also contain b"},
          {"expected", expected_text(counts)},
          {"lift", "baskets with the combination / expected"},
          {"p_value",
           "the probability of this many or more baskets if items were put into baskets at random: a score "
           "test with "
           "customers as clusters (Rao and Scott 1992)"},
          {"q_value",
           fmt::format("Benjamini and Hochberg over {} tested", counted(counts.pairs_tested, "pair"))}};
}

void add_notes(const Counts& counts, result::Result& result) {
  result.notes.push_back(fmt::format(
      "Support: {} of {} or more{}.{}", counted(counts.least, "basket"),
      with_thousands(static_cast<std::int64_t>(counts.baskets.size())),
      counts.options.support ? "" : ", chosen from the number of baskets (change it with --support)",
      counts.about ? " Pairs are listed whatever their support." : ""));
  std::uint64_t found = 0;
  for (const ItemPair& pair : counts.pairs) found += Counts::is_found(pair) ? 1U : 0U;
  result.notes.push_back(
      fmt::format("{} tested; {} of those listed {} together significantly more often than expected by "
                  "chance (q <= 0.05).",
                  counted(counts.pairs_tested, "pair"), with_thousands(static_cast<std::int64_t>(found)),
                  found == 1 ? "is" : "are"));
  if (!counts.period.empty())
    result.notes.push_back(
        fmt::format("Expected numbers compare baskets of the same {} and the same size.", counts.period));
}

void add_checks(const Counts& counts, result::Result& result) {
  bool fits = true;
  for (const ItemPair& pair : counts.pairs)
    fits = fits && pair.both <= std::min(counts.baskets.counts[pair.a], counts.baskets.counts[pair.b]);
  result.checks.push_back({"no pair is in more baskets than either of the two", fits});
  std::uint64_t single_item = 0, held = 0;
  for (const std::uint32_t count : counts.baskets.single_item) single_item += count;
  for (const std::uint32_t count : counts.baskets.counts) held += count;
  const std::uint64_t items = counts.baskets.items;
  result.checks.push_back({fmt::format("the baskets of each {} add up to the {} in all {}", counts.item,
                                       counted(items, counts.item, analysis::plural_of(counts.item)),
                                       counted(counts.baskets.size(), "basket")),
                           items == held && counts.baskets.single == single_item});
}

}  // namespace pear::together
