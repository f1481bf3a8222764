#include "questions/sequence/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/length_of_time.hpp"
#include "analysis/options/share.hpp"
#include "base/text.hpp"
#include "mining/mining_options.hpp"

namespace pear::sequence {
namespace {

/// Options that contradict each other.
OrError<void> check(const Options& options) {
  const mining::SequenceRule rule = options.rule();
  if (rule.max_gap < rule.min_gap)
    return usage_error(fmt::format("--max-gap {} is less than --min-gap {}.", rule.max_gap, rule.min_gap));
  if (rule.span < rule.min_gap)
    return usage_error(fmt::format("--span {} is less than --min-gap {}.", rule.span, rule.min_gap));
  if (options.sets && options.repeats == mining::Repeats::only)
    return usage_error("--sets does not fit --repeats only, whose steps are one product each.");
  if (options.journey &&
      (options.items || options.min_gap || options.max_gap || options.span || options.sets ||
       options.support || options.only != mining::OnlySets::all || options.product || options.starts_with ||
       options.ends_with || options.repeats == mining::Repeats::only))
    return usage_error("--journey can be combined only with --longest and with --repeats first or all.");
  return {};
}

}  // namespace

mining::SequenceRule Options::rule() const {
  mining::SequenceRule rule;
  rule.min_gap = static_cast<std::int32_t>(min_gap.value_or(1));
  if (max_gap) rule.max_gap = static_cast<std::int32_t>(*max_gap);
  if (span) rule.span = static_cast<std::int32_t>(*span);
  rule.sets = sets;
  rule.repeats = repeats;
  return rule;
}

analysis::OptionDeclarations<Options> option_declarations() {
  constexpr std::int64_t kMostDays = 100'000;
  return {
      mining::items_option<Options>("what is bought in sequence"),
      analysis::word_option<Options>(
          {"repeats", "first|all|only", "first", "each product once, all its purchases, or only repurchases"},
          &Options::repeats, {"first", "all", "only"}),
      analysis::days_option<Options>({"min-gap", "DAYS", "1", "least days from a step to the next"},
                                     &Options::min_gap, 1, kMostDays),
      analysis::days_option<Options>({"max-gap", "DAYS", "", "most days from a step to the next"},
                                     &Options::max_gap, 1, kMostDays),
      analysis::days_option<Options>({"span", "DAYS", "", "most days from the first step to the last"},
                                     &Options::span, 1, kMostDays),
      analysis::switch_option<Options>({"sets", "", "", "steps may be several products of one order"},
                                       &Options::sets),
      mining::support_option("customer", "the least number of customers who went through it",
                             &Options::support),
      analysis::whole_option<Options>({"longest", "N", "4", "most steps of a sequence"}, &Options::longest, 2,
                                      12),
      mining::only_option<Options>("sequences that no longer one"),
      analysis::text_option<Options>(
          {"product", "ID", "", "what comes before and after this one, by id or name"}, &Options::product),
      analysis::text_option<Options>({"starts-with", "ID", "", "sequences that begin with this one"},
                                     &Options::starts_with),
      analysis::text_option<Options>({"ends-with", "ID", "", "sequences that end with this one"},
                                     &Options::ends_with),
      mining::at_most_option<Options>("sequences"),
      analysis::tree_option<Options>(
          {"journey", "COLUMN", "", "instead: how customers move between categories, and where they stop"},
          &Options::journey)};
}

OrError<Options> read(const analysis::OptionValues& values) {
  PEAR_ASSIGN(const Options options, analysis::read_options(option_declarations(), values));
  PEAR_TRY(check(options));
  return options;
}

}  // namespace pear::sequence
