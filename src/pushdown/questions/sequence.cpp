#include "pushdown/questions/sequence.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "pushdown/doubled_support.hpp"
#include "pushdown/members_in_sql.hpp"
#include "pushdown/questions/first_purchase_statements.hpp"
#include "questions/sequence/question.hpp"

namespace pear::pushdown {
namespace {

using sequence::Transition;

OrError<sequence::Options> sequence_options(const analysis::OptionValues& values) {
  const bool is_given =
      std::any_of(values.begin(), values.end(), [](const auto& value) { return value.first == "longest"; });
  PEAR_ASSIGN(sequence::Options options, sequence::read(values));
  if (!is_given) options.longest = 2;
  const char* option = options.journey                             ? "journey"
                       : options.longest > 2                       ? "longest"
                       : options.sets                              ? "sets"
                       : options.repeats != mining::Repeats::first ? "repeats"
                       : options.only != mining::OnlySets::all     ? "condense"
                                                                   : nullptr;
  if (option == nullptr) return options;
  return usage_error(fmt::format(
      "--{}: a database counts what customers buy after what, each product at its first purchase. Anything "
      "longer needs the histories: import the lines, or a sample of customers (--customers 1/50), and ask "
      "the daybook.",
      option));
}

/// Replaces what options say of products by their ids. Errors: usage, also for a product that no selected
/// line has.
OrError<void> find_products(const SelectedLines& lines, const Items& items, sequence::Options& options) {
  if (items.key.source != daybook::role::kProductId) return {};
  for (auto* text : {&options.product, &options.starts_with, &options.ends_with}) {
    if (!*text) continue;
    PEAR_ASSIGN(*text, find_product(lines, **text));
    if (!lines.session.explains() && !items.codes.contains(**text))
      return usage_error(fmt::format("no selected line has the product {}.", **text));
  }
  return {};
}

/// The text by which the database knows an item.
std::string text_of(const Items& items, std::uint32_t code) {
  for (const auto& [text, of] : items.codes)
    if (of == code) return text;
  return {};
}

/// Sets the support, and the numbers of the pairs that reach it.
OrError<void> add_pairs(sequence::Counts& counts, const FoundItems& found) {
  const auto reach = [&](std::uint32_t least) {
    return static_cast<std::size_t>(std::count_if(
        found.begin(), found.end(), [&](const auto& each) { return each.second.within_gaps >= least; }));
  };
  if (!counts.options.support) counts.least = doubled_support(counts.least, sequence::kMostSequences, reach);
  const auto most = static_cast<std::size_t>(counts.options.at_most);
  if (reach(counts.least) > most)
    return sequence::too_many_sequences(counts, doubled_support(counts.least, most, reach));
  for (const auto& [items, two] : found) {
    const bool is_asked = counts.about == items.first || counts.about == items.second;
    if (two.within_gaps == 0 || (two.within_gaps < counts.least && !is_asked)) continue;
    const TwoItems& back = found.at({items.second, items.first});
    Transition pair;
    pair.earlier = items.first, pair.later = items.second;
    pair.both = two.within_gaps, pair.reverse = back.within_gaps;
    pair.one_way = two.one_way, pair.other_way = back.one_way;
    counts.next.pairs.push_back(pair);
  }
  return {};
}

/// The pairs that reach the support, as sequences of two steps.
void add_sequences(sequence::Counts& counts) {
  for (const Transition* pair : counts.pairs) {
    const bool is_wanted = (!counts.starts || pair->earlier == counts.starts) &&
                           (!counts.ends || pair->later == counts.ends) && pair->both >= counts.least;
    if (!is_wanted) continue;
    sequence::ListedSequence listed;
    listed.items = {mining::StepItem(pair->earlier, true), mining::StepItem(pair->later, true)};
    listed.facts.customers = pair->both;
    listed.facts.last_days = listed.facts.all_days = pair->days_median;
    listed.step_days = {pair->days_median};
    listed.given = counts.histories.counts[pair->earlier];
    listed.least_lift = counts.lift(*pair);
    listed.sure_lift = counts.sure_lift(*pair);
    listed.least_ratio = pair->rate_ratio;
    listed.sure_ratio = pair->sure_ratio;
    listed.is_found = counts.is_found(*pair);
    counts.sequences.push_back(std::move(listed));
  }
  sequence::sort_sequences(counts);
}

}  // namespace

OrError<result::Result> answer_sequence(const analysis::OptionValues& values, const SelectedLines& lines,
                                        const analysis::QuestionInput& input) {
  PEAR_ASSIGN(sequence::Options options, sequence_options(values));
  PEAR_ASSIGN(auto of_schema, mining::basket_key(options.items, lines.scope.schema));
  PEAR_ASSIGN(const SqlKey key, item_key(options.items, lines));
  PEAR_ASSIGN(const Items items, read_items(key, lines));
  PEAR_TRY(find_products(lines, items, options));
  const bool explains = lines.session.explains();
  if (explains) options.product = options.starts_with = options.ends_with = std::nullopt;
  PEAR_ASSIGN(sequence::Counts counts,
              sequence::without_histories(input, options, {items.key, std::move(of_schema.second)}));
  counts.tests_directions = false;
  const FirstPurchaseStatements statements(lines, key, counts.rule, input.data_end);
  mining::Histories& histories = counts.histories;
  PEAR_TRY(statements.count_customers(items, histories));
  if (!explains &&
      std::all_of(histories.after_any.begin(), histories.after_any.end(), [](auto n) { return n == 0; }))
    return sequence::no_sequence(counts);
  counts.least =
      options.support ? options.support->of(histories.buyers) : sequence::usual_support(histories.buyers);
  const std::string about = counts.about ? text_of(items, *counts.about) : "";
  PEAR_ASSIGN(const FoundItems found, statements.pairs(items, counts.least, about));
  PEAR_TRY(add_pairs(counts, found));
  std::vector<ItemPair> listed;
  for (const Transition& pair : counts.next.pairs) listed.emplace_back(pair.earlier, pair.later);
  PEAR_ASSIGN(auto days, statements.days_of_pairs(items, listed));
  PEAR_ASSIGN(const std::vector<sequence::FollowedDays> followed,
              statements.followed(items, counts.about ? 1 : counts.least));
  for (auto& [pair, of] : days) of.ends = followed[pair.first].ends(sequence::kRateDays.back());
  PEAR_TRY(statements.take_ends(items, days));
  if (explains) return result::Result{};
  const std::vector<double> usual = sequence::usual_daily_rates(histories, input.data_end);
  for (Transition& pair : counts.next.pairs)
    sequence::set_timing(days.at({pair.earlier, pair.later}), followed[pair.earlier], usual[pair.later],
                         pair);
  sequence::list_pairs(counts);
  add_sequences(counts);
  std::vector<ItemPair> of_headline;
  for (const Transition* pair : sequence::headline_pairs(counts))
    of_headline.emplace_back(pair->earlier, pair->later);
  if (of_headline.empty()) return sequence::result_of(counts);
  PEAR_ASSIGN(auto curves, statements.curves(items, of_headline, followed));
  for (const Transition* pair : sequence::headline_pairs(counts))
    counts.timing.push_back({pair, std::move(curves.at({pair->earlier, pair->later}))});
  return sequence::result_of(counts);
}

}  // namespace pear::pushdown
