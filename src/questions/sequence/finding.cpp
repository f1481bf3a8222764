#include "questions/sequence/finding.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::sequence {
namespace {

std::string pair_sentence(const Counts& counts, const Transition& pair) {
  const std::uint32_t customers = counts.histories.counts[pair.earlier];
  if (pair.earlier == pair.later)
    return fmt::format("Most often bought again: {}, by {} of its {} customers ({}), half of them within {}.",
                       counts.names().title(pair.earlier), analysis::number(pair.both),
                       analysis::number(customers), analysis::per_cent(pair.both, customers),
                       analysis::days_text(pair.days_median));
  return fmt::format(
      "After {0}, {2} of {3} customers ({4}) buy {1}, half of them {5} later. That is {6:.0f} times the "
      "usual rate "
      "per day.",
      counts.names().title(pair.earlier), counts.names().title(pair.later), analysis::number(pair.both),
      analysis::number(customers), analysis::per_cent(pair.both, customers), quartiles_text(pair),
      pair.rate_ratio);
}

const ListedSequence* longest_found(const Counts& counts) {
  for (const ListedSequence& sequence : counts.sequences)
    if (sequence.is_found && mining::steps_of(sequence.items) > 2) return &sequence;
  return nullptr;
}

std::string chain_sentence(const Counts& counts, const ListedSequence& sequence) {
  std::string chain;
  std::size_t step = 0;
  for (const mining::StepItem item : sequence.items) {
    const bool begins = item.begins_step();
    if (!chain.empty()) chain += begins ? ", then " : " with ";
    chain += counts.names().title(item.code());
    if (begins && step++ > 0)
      chain += fmt::format(" ({} later)", analysis::days_text(sequence.step_days[step - 2]));
  }
  return fmt::format(
      "In {} steps: {}. {} customers completed it, {} of those who had reached the last step but one.",
      mining::steps_of(sequence.items), chain, analysis::number(sequence.facts.customers),
      analysis::per_cent(sequence.facts.customers, sequence.given));
}

std::string nothing_sentence(const Counts& counts) {
  if (!counts.tests_directions)
    return fmt::format("No {} is bought after another by significantly more customers than usual.",
                       counts.item);
  const std::string tested = counted(counts.next.directions_tested, "pair");
  return fmt::format("No {} follows another significantly more often than expected by chance ({} tested).",
                     counts.item, tested);
}

/// Whether a pair is on this side of the requested item.
bool is_on_side(const Counts& counts, const Transition& pair, bool after) {
  return (after ? pair.earlier : pair.later) == counts.about;
}

/// The most significant pair on one side of the requested item; the most frequent one if none is significant.
std::string side_sentence(const Counts& counts, bool after) {
  const Transition* commonest = nullptr;
  for (const Transition* pair : counts.pairs) {
    if (!is_on_side(counts, *pair, after)) continue;
    if (counts.is_found(*pair)) return pair_sentence(counts, *pair);
    if (pair->earlier != pair->later && (commonest == nullptr || pair->both > commonest->both))
      commonest = pair;
  }
  const std::string what = counts.names().title(*counts.about);
  if (commonest == nullptr)
    return fmt::format("No customer bought anything {} {}.", after ? "after" : "before", what);
  const std::uint32_t customers = counts.histories.counts[commonest->earlier];
  return fmt::format(
      "No product is bought {} {} {} than the other way round. The most frequent is "
      "{}: {} of {} customers ({}), half of these {} later.",
      after ? "after" : "before", what,
      counts.tests_directions ? "significantly more often" : "both more often than usual and more often",
      counts.names().title(after ? commonest->later : commonest->earlier), analysis::number(commonest->both),
      analysis::number(customers), analysis::per_cent(commonest->both, customers),
      quartiles_text(*commonest));
}

}  // namespace

std::string quartiles_text(const Transition& pair) {
  if (pair.days_p25 == pair.days_p75) return analysis::days_text(pair.days_p75);
  return fmt::format("{} to {}", pair.days_p25, analysis::days_text(pair.days_p75));
}

std::vector<std::string> headline_of(const Counts& counts) {
  if (counts.about && counts.rule.repeats != mining::Repeats::only)
    return {side_sentence(counts, true), side_sentence(counts, false)};
  std::vector<std::string> headline;
  const bool any = !counts.pairs.empty() &&
                   (counts.is_found(*counts.pairs.front()) || counts.rule.repeats == mining::Repeats::only);
  headline.push_back(any ? pair_sentence(counts, *counts.pairs.front()) : nothing_sentence(counts));
  if (counts.rule.repeats != mining::Repeats::only) {
    if (const ListedSequence* chain = longest_found(counts))
      headline.push_back(chain_sentence(counts, *chain));
  }
  return headline;
}

result::Definitions definitions_of(const Counts& counts) {
  const std::string which =
      counts.rule.repeats == mining::Repeats::first ? "a customer's first purchase of each"
      : counts.rule.repeats == mining::Repeats::all ? "all purchases"
                                                    : "all purchases of the same product";
  result::Definitions definitions = {
      {"step", fmt::format("{}, without returns", which)},
      {"then", gaps_text(counts.rule)},
      {"support", "customers who went through all steps, as a share of all who bought"},
      {"base_rate", "share of all customers who bought it after any order of theirs"},
      {"direction",
       "of the customers who first bought the two on different days: how many did so one way, compared with "
       "the number expected from when customers usually buy each for the first time; q values by Benjamini "
       "and Hochberg"},
      {"rate_30, rate_90, rate_180", fmt::format("Kaplan-Meier estimate; customers were observed until {}",
                                                 to_text(counts.input.data_end))}};
  if (!counts.tests_directions)
    std::erase_if(definitions, [](const auto& each) { return each.first == "direction"; });
  return definitions;
}

void add_notes(const Counts& counts, result::Result& result) {
  result.notes.push_back(fmt::format(
      "Support: {} of {} or more{}.{}", counted(counts.least, "customer"),
      with_thousands(counts.histories.buyers),
      counts.options.support ? "" : ", chosen from the number of sequences (change it with --support)",
      counts.about ? " Pairs are listed whatever their support." : ""));
  if (counts.rule.repeats == mining::Repeats::only) return;
  if (!counts.tests_directions) {
    result.notes.push_back(
        "Whether a direction is significant is a test over single visits, which a database does not compute. "
        "Import "
        "the lines, or a sample of customers (--customers 1/50), for it. Pairs that more customers bought in "
        "this "
        "order than in the other, with a lift above 1 with 95% confidence, are listed first.");
    return;
  }
  std::size_t found = 0;
  for (const Transition* pair : counts.pairs) found += counts.is_found(*pair) ? 1U : 0U;
  result.notes.push_back(
      fmt::format("{} tested; of {} listed {} a significant direction (q <= 0.05) and a lift above 1 with "
                  "95% confidence. They are listed first.",
                  counted(counts.next.directions_tested, "direction"), counted(counts.pairs.size(), "pair"),
                  counted(found, "has", "have")));
}

void add_checks(const Counts& counts, result::Result& result) {
  bool fits = true, pairs_agree = true;
  for (const ListedSequence& sequence : counts.sequences) {
    fits = fits && sequence.facts.customers <= sequence.given;
    if (sequence.items.size() != 2) continue;
    const Transition* pair = counts.next.find(sequence.items.front().code(), sequence.items.back().code());
    pairs_agree = pairs_agree && pair != nullptr && pair->both == sequence.facts.customers &&
                  pair->days_median == sequence.facts.last_days;
  }
  result.checks.push_back({"no sequence has more customers than it has without its last step", fits});
  if (!counts.tests_directions) return;  // they are made of these pairs
  result.checks.push_back(
      {"sequences of two steps have the customers and days of the table of pairs, which is counted "
       "separately",
       pairs_agree});
}

}  // namespace pear::sequence
