#include "questions/sequence/question.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "mining/baskets.hpp"
#include "questions/sequence/finding.hpp"
#include "questions/sequence/journey.hpp"

namespace pear::sequence {

mining::SequenceRule Options::rule() const {
  mining::SequenceRule rule;
  rule.min_gap = static_cast<std::int32_t>(min_gap.value_or(1));
  if (max_gap) rule.max_gap = static_cast<std::int32_t>(*max_gap);
  if (span) rule.span = static_cast<std::int32_t>(*span);
  rule.sets = sets;
  rule.repeats = repeats;
  return rule;
}

namespace {

void add_checks(const Finding& finding, result::Result& result) {
  bool fits = true, pairs_agree = true;
  for (const ListedSequence& sequence : finding.sequences) {
    fits = fits && sequence.facts.customers <= sequence.given;
    if (sequence.items.size() != 2) continue;
    const Transition* pair = finding.next.find(sequence.items.front().code(), sequence.items.back().code());
    pairs_agree = pairs_agree && pair != nullptr && pair->both == sequence.facts.customers &&
                  pair->days_median == sequence.facts.last_days;
  }
  result.checks.push_back({"no sequence has more customers than it has without its last step", fits});
  result.checks.push_back(
      {"sequences of two have the customers and days of what comes next, counted apart", pairs_agree});
}

std::string gaps_told(const mining::SequenceRule& rule) {
  std::string told =
      rule.min_gap == 1
          ? "on a later day"
          : fmt::format("at least {} later", counted(static_cast<std::uint64_t>(rule.min_gap), "day"));
  if (rule.max_gap != mining::SequenceRule::kAny)
    told += fmt::format(", at most {} after the step before",
                        counted(static_cast<std::uint64_t>(rule.max_gap), "day"));
  if (rule.span != mining::SequenceRule::kAny)
    told += fmt::format(", all steps within {}", counted(static_cast<std::uint64_t>(rule.span), "day"));
  return told;
}

void add_notes(const Finding& finding, result::Result& result) {
  result.notes.push_back(fmt::format(
      "Support: {} of {} or more{}.{}", counted(finding.least, "customer"),
      with_thousands(finding.histories.buyers),
      finding.options.support ? "" : ", chosen by the number of sequences (--support chooses another)",
      finding.about ? " Pairs are listed whatever their support." : ""));
  if (finding.rule.repeats == mining::Repeats::only) return;
  std::size_t found = 0;
  for (const Transition* pair : finding.pairs) found += finding.is_found(*pair) ? 1U : 0U;
  result.notes.push_back(
      fmt::format("{} tested; of {} listed {} a direction that is no chance (q <= 0.05) and a lift surely "
                  "above 1. Those come first.",
                  counted(finding.next.directions_tested, "direction"), counted(finding.pairs.size(), "pair"),
                  counted(found, "has", "have")));
}

result::Definitions definitions_of(const Finding& finding) {
  const std::string which =
      finding.rule.repeats == mining::Repeats::first ? "a customer's first purchase of each"
      : finding.rule.repeats == mining::Repeats::all ? "all purchases"
                                                     : "all purchases of one and the same";
  return {{"step", fmt::format("{}, returns left out", which)},
          {"then", gaps_told(finding.rule)},
          {"support", "customers who went through all steps, as a share of all who bought"},
          {"base_rate", "of all customers, the share that bought it after any order of theirs"},
          {"direction",
           "exact sign test of those who only bought one after the other, of all their purchases; q values "
           "by Benjamini and Hochberg"},
          {"rate_30, rate_90, rate_180",
           fmt::format("Kaplan-Meier; customers were followed to {}", to_text(finding.asked.data_end))}};
}

OrError<void> find_items(Finding& finding) {
  const auto find = [&](const char* option, const std::optional<std::string>& text,
                        std::optional<std::uint32_t>& code) -> OrError<void> {
    if (text) {
      PEAR_ASSIGN(code, finding.names().find(option, *text));
    }
    return {};
  };
  PEAR_TRY(find("product", finding.options.product, finding.about));
  PEAR_TRY(find("starts-with", finding.options.starts_with, finding.starts));
  return find("ends-with", finding.options.ends_with, finding.ends);
}

/// Whether anybody bought on two days.
bool has_steps(const mining::Histories& histories) {
  return std::any_of(histories.entries.begin(), histories.entries.end(),
                     [](const mining::HistoryEntry& entry) { return entry.follows; });
}

}  // namespace

OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options) {
  if (options.journey) return ask_journey(asked, options);
  const expression::LineView lines(asked.daybook, asked.grains);
  Finding finding{asked, options, options.rule(), {}, "product", {}, 1, {}, {}, {}, {}, {}, {}, {}};
  PEAR_ASSIGN(std::tie(finding.key, finding.item), mining::basket_key(options.level, lines));
  PEAR_TRY(find_items(finding));
  finding.histories = mining::gather_histories(asked.daybook, finding.key, finding.rule);
  if (!has_steps(finding.histories))
    return data_error(fmt::format("none of the {} bought {}, so nothing follows anything.",
                                  counted(finding.histories.buyers, "customer"), gaps_told(finding.rule)));
  PEAR_TRY(find_sequences(finding));

  result::Result result;
  result.question = "sequence";
  result.population = asked.population;
  result.definitions = definitions_of(finding);
  result.headline = headline_of(finding);
  result.tables = {sequences_table(finding), transitions_table(finding), timing_table(finding)};
  result.figures = figures_of(finding);
  add_checks(finding, result);
  add_notes(finding, result);
  return result;
}

namespace {

analysis::OptionDeclarations<Options> sequence_options() {
  using Options = Options;
  constexpr std::int64_t kMostDays = 100'000;
  return {
      analysis::tree_option<Options>(
          {"level", "COLUMN", "product_id", "what is bought in sequence: any column of products"},
          &Options::level),
      analysis::word_option<Options>({"repeats", "first|all|only", "first",
                                      "each product once, all its purchases, or its repurchase alone"},
                                     &Options::repeats, {"first", "all", "only"}),
      analysis::whole_option<Options>({"min-gap", "DAYS", "1", "least days from a step to the next"},
                                      &Options::min_gap, 1, kMostDays),
      analysis::whole_option<Options>({"max-gap", "DAYS", "", "most days from a step to the next"},
                                      &Options::max_gap, 1, kMostDays),
      analysis::whole_option<Options>({"span", "DAYS", "", "most days from the first step to the last"},
                                      &Options::span, 1, kMostDays),
      analysis::switch_option<Options>({"sets", "", "", "steps may be several products of one order"},
                                       &Options::sets),
      mining::support_option("customer", "the least number of customers who went through it",
                             &Options::support),
      analysis::whole_option<Options>({"longest", "N", "4", "most steps of a sequence"}, &Options::longest, 2,
                                      12),
      analysis::word_option<Options>(
          {"only", "closed|maximal", "", "sequences that no longer one is as common as, or contains"},
          &Options::only, {"all", "closed", "maximal"}),
      analysis::text_option<Options>(
          {"product", "ID", "", "what comes before and after this one, by id or name"}, &Options::product),
      analysis::text_option<Options>({"starts-with", "ID", "", "sequences that begin with this one"},
                                     &Options::starts_with),
      analysis::text_option<Options>({"ends-with", "ID", "", "sequences that end with this one"},
                                     &Options::ends_with),
      analysis::whole_option<Options>({"at-most", "N", "1000000", "sequences that may reach the support"},
                                      &Options::at_most, 1, 1'000'000'000),
      analysis::tree_option<Options>(
          {"journey", "COLUMN", "",
           "instead: how customers go on from category to category, and where they stop"},
          &Options::journey)};
}

/// Options that have no meaning beside each other.
OrError<void> check(const Options& options) {
  const mining::SequenceRule rule = options.rule();
  if (rule.max_gap < rule.min_gap)
    return usage_error(fmt::format("--max-gap {} is less than --min-gap {}.", rule.max_gap, rule.min_gap));
  if (rule.span < rule.min_gap)
    return usage_error(fmt::format("--span {} is less than --min-gap {}.", rule.span, rule.min_gap));
  if (options.sets && options.repeats == mining::Repeats::only)
    return usage_error("--sets has no meaning with --repeats only, whose steps are one product each.");
  if (options.journey &&
      (options.level || options.min_gap || options.max_gap || options.span || options.sets ||
       options.support || options.only != mining::OnlySets::all || options.product || options.starts_with ||
       options.ends_with || options.repeats == mining::Repeats::only))
    return usage_error(
        "--journey goes with --longest and --repeats first or all, and with no other option of "
        "sequence.");
  return {};
}

}  // namespace

analysis::Question question() {
  return {"sequence",
          "what is bought one after another, and how long after",
          "Follows customers through time: which products lead to which others on later days, how many take\n"
          "the step, and how soon. Each product counts once for a customer, at its first purchase, unless\n"
          "--repeats says otherwise; returns never count.",
          {"pear-thread sequence shop.daybook", "pear-thread sequence --product P53",
           "pear-thread sequence --level category --max-gap 90",
           "pear-thread sequence --repeats only --longest 6", "pear-thread sequence --journey category"},
          analysis::infos(sequence_options()),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const Options options, analysis::read_options(sequence_options(), values));
            PEAR_TRY(check(options));
            analysis::PreparedQuestion prepared =
                mining::prepared_for_baskets(options.journey ? options.journey : options.level);
            prepared.ask = [options](const analysis::QuestionInput& asked) { return ask(asked, options); };
            return prepared;
          }};
}

}  // namespace pear::sequence
