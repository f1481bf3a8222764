// Ways through sequences, patterns within patterns, and what is bought first: compared with slow twins.
#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/tables/member_column.hpp"
#include "mining/earliest_embedding.hpp"
#include "mining/first_purchases.hpp"
#include "mining/prefix_growth.hpp"
#include "support/history_maker.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

using mining::StepItem;

mining::SequenceRule random_gaps() {
  mining::SequenceRule rule;
  rule.min_gap = pick(1, 30);
  if (pick(0, 1) == 1) rule.max_gap = rule.min_gap + pick(0, 100);
  if (pick(0, 2) == 0) rule.span = pick(1, 200);
  rule.repeats = mining::Repeats::all;
  rule.sets = true;
  return rule;
}

std::vector<StepItem> random_sequence(std::uint32_t products) {
  std::vector<StepItem> items;
  for (int step = pick(1, 3); step > 0; --step) {
    std::set<std::uint32_t> codes;
    for (int item = pick(0, 3) == 0 ? 2 : 1; item > 0; --item)
      codes.insert(static_cast<std::uint32_t>(pick(0, static_cast<int>(products) - 1)));
    bool begins = true;
    for (const std::uint32_t code : codes) items.emplace_back(code, std::exchange(begins, false));
  }
  return items;
}

/// The days of each way through a sequence, by trying all orders for all steps.
class AllWays {
 public:
  AllWays(std::span<const mining::HistoryEntry> history, const std::vector<StepItem>& items,
          const mining::SequenceRule& rule)
      : rule_(rule) {
    for (const mining::HistoryEntry& entry : history) {
      if (orders_.empty() || orders_.back().number != entry.order)
        orders_.push_back({entry.order, entry.day, {}});
      orders_.back().codes.insert(entry.code);
    }
    for (const StepItem& item : items) {
      if (item.begins_step()) steps_.emplace_back();
      steps_.back().insert(item.code());
    }
    std::vector<std::int32_t> days;
    go_on(0, days);
  }
  std::vector<std::vector<std::int32_t>> ways;

 private:
  struct Order {
    std::uint32_t number = 0;
    std::int32_t day = 0;
    std::set<std::uint32_t> codes;
  };

  void go_on(std::size_t from, std::vector<std::int32_t>& days) {
    if (days.size() == steps_.size()) return ways.push_back(days);
    for (std::size_t order = from; order < orders_.size(); ++order) {
      const auto& codes = steps_[days.size()];
      const std::int32_t day = orders_[order].day;
      if (!std::includes(orders_[order].codes.begin(), orders_[order].codes.end(), codes.begin(),
                         codes.end()))
        continue;
      if (!days.empty() && (day - days.back() < rule_.min_gap || day - days.back() > rule_.max_gap ||
                            day - days.front() > rule_.span))
        continue;
      days.push_back(day);
      go_on(order + 1, days);
      days.pop_back();
    }
  }

  mining::SequenceRule rule_;
  std::vector<Order> orders_;
  std::vector<std::set<std::uint32_t>> steps_;
};

RC_GTEST_PROP(EarliestEmbedding, IsTheFirstOfAllWays, ()) {
  const mining::Histories histories = random_purchases(1, 3, 200);
  const mining::SequenceRule rule = random_gaps();
  const std::vector<StepItem> items = random_sequence(3);
  const AllWays all(histories.of(0), items, rule);
  RC_PRE(!all.ways.empty());
  const auto& first = *std::min_element(all.ways.begin(), all.ways.end());
  const mining::EmbeddingDays days = mining::earliest_embedding(histories.of(0), items, rule);
  RC_ASSERT(days.all == first.back() - first.front());
  RC_ASSERT(days.last == (first.size() > 1 ? first.back() - first[first.size() - 2] : days.last));
}

/// Any sequence has as many customers as have a way through it, and none is missing.
RC_GTEST_PROP(PrefixGrowth, FindsTheSequencesOfEnoughCustomers, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  mining::SequenceRule rule = random_gaps();
  rule.min_gap = std::max(1, rule.min_gap);
  mining::Histories histories =
      mining::gather_histories(daybook, analysis::id_key(daybook, daybook::Level::product), rule);
  mining::MiningBounds bounds;
  bounds.least = static_cast<std::uint32_t>(pick(1, 3));
  bounds.largest = 3;
  bounds.at_most = 20'000;
  const mining::Histories whole = histories;
  const mining::Sequences mined = mining::mine_what_fits(histories, rule, bounds);
  const mining::SequenceIndex index(mined);
  const auto customers_of = [&](const std::vector<StepItem>& items) {
    std::uint32_t customers = 0;
    for (std::uint32_t customer = 0; customer < whole.customers(); ++customer)
      customers += AllWays(whole.of(customer), items, rule).ways.empty() ? 0U : 1U;
    return customers;
  };
  for (int probe = 0; probe < 20 && mined.size() > 0; ++probe) {
    const auto place = static_cast<std::size_t>(pick(0, static_cast<int>(mined.size()) - 1));
    const std::vector<StepItem> items(mined.items(place).begin(), mined.items(place).end());
    RC_ASSERT(mined.facts(place).customers == customers_of(items));
    RC_ASSERT(mined.facts(place).customers >= bounds.least);
    RC_ASSERT(index.find(items) == place);
  }
  for (int probe = 0; probe < 20 && daybook.products() > 0; ++probe) {
    const std::vector<StepItem> items = random_sequence(daybook.products());
    RC_ASSERT(index.find(items).has_value() == (customers_of(items) >= bounds.least));
  }
}

/// Whether a history that consists of one sequence has a way through another.
bool is_within(mining::StepItems small, mining::StepItems large) {
  std::vector<std::set<std::uint32_t>> steps[2];
  for (const int which : {0, 1})
    for (const StepItem& item : which == 0 ? small : large) {
      if (item.begins_step()) steps[which].emplace_back();
      steps[which].back().insert(item.code());
    }
  std::size_t found = 0;
  for (const auto& step : steps[1])
    if (found < steps[0].size() &&
        std::includes(step.begin(), step.end(), steps[0][found].begin(), steps[0][found].end()))
      ++found;
  return found == steps[0].size();
}

RC_GTEST_PROP(KeptSequences, AreClosedOrMaximalByDefinition, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  mining::SequenceRule rule;
  rule.repeats = mining::Repeats::all;
  rule.sets = pick(0, 1) == 1;
  mining::Histories histories =
      mining::gather_histories(daybook, analysis::id_key(daybook, daybook::Level::product), rule);
  mining::MiningBounds bounds;
  bounds.least = 2;
  bounds.largest = 3;
  bounds.at_most = 300;
  const mining::Sequences mined = mining::mine_what_fits(histories, rule, bounds);
  const auto closed = mining::kept_sequences(mined, rule, mining::OnlySets::closed);
  const auto maximal = mining::kept_sequences(mined, rule, mining::OnlySets::maximal);
  for (std::size_t own = 0; own < mined.size(); ++own) {
    bool is_closed = true, is_maximal = true;
    for (std::size_t other = 0; other < mined.size(); ++other) {
      if (mined.items(other).size() <= mined.items(own).size()) continue;
      if (!is_within(mined.items(own), mined.items(other))) continue;
      is_maximal = false;
      is_closed = is_closed && mined.facts(other).customers < mined.facts(own).customers;
    }
    RC_ASSERT((closed[own] == 1) == is_closed);
    RC_ASSERT((maximal[own] == 1) == is_maximal);
  }
}

/// The probability that one purchase precedes the other, of all pairs of visits.
RC_GTEST_PROP(FirstPurchases, AreComparedByAllPairsOfVisits, ()) {
  const int visits = pick(1, 8);
  mining::FirstPurchases::Timing one, other;
  double before_one = 0, before_other = 0;
  for (int visit = 0; visit < visits; ++visit) {
    const double at = pick(0, 10) / 100.0, at_other = pick(0, 10) / 100.0;
    one.push_back({at, before_one}), other.push_back({at_other, before_other});
    before_one += at, before_other += at_other;
  }
  double first = 0, second = 0;
  for (int a = 0; a < visits; ++a)
    for (int b = 0; b < visits; ++b) {
      const double both = one[static_cast<std::size_t>(a)].at * other[static_cast<std::size_t>(b)].at;
      (a < b ? first : second) += a == b ? 0 : both;
    }
  const double wanted = first + second > 0 ? first / (first + second) : 0.5;
  RC_ASSERT(std::abs(mining::probability_before(one, other) - wanted) < 1e-9);
  RC_ASSERT(std::abs(mining::probability_before(one, other) + mining::probability_before(other, one) - 1) <
            1e-9);
}

}  // namespace
}  // namespace pear::test
