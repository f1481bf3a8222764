#include "questions/sequence/directions.hpp"

#include <algorithm>
#include <atomic>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "statistics/significance.hpp"

namespace pear::sequence {
namespace {

/// In `counts` or a constant one.
template <class Counts>
auto* find_count(Counts& counts, std::uint32_t earlier, std::uint32_t later) {
  auto& own = counts[earlier];
  const auto found = std::lower_bound(own.begin(), own.end(), later,
                                      [](const PairCount& a, std::uint32_t b) { return a.later < b; });
  return found == own.end() || found->later != later ? nullptr : &*found;
}

PairCount count_of(const PairCounts& counts, std::uint32_t earlier, std::uint32_t later) {
  const PairCount* found = find_count(counts, earlier, later);
  return found == nullptr ? PairCount{} : *found;
}

/// Adds what is expected of customers, one after another. One for each thread.
class Expecter {
 public:
  Expecter(const mining::Histories& histories, const mining::FirstPurchases& model, PairCounts& counts)
      : histories_(histories), model_(model), counts_(counts) {
    constexpr std::size_t kMostCells = 1'000'000;
    if (counts.size() * counts.size() <= kMostCells) sums_.resize(counts.size() * counts.size());
  }

  void add(std::uint32_t customer) {
    items_.clear();
    for (const mining::HistoryEntry& entry : histories_.of(customer))
      if (entry.is_first != 0) items_.push_back(&entry);
    if (items_.size() < 2) return;
    timings_.resize(std::max(timings_.size(), items_.size()));
    // Of a customer outside the model, both orders count as equally likely.
    is_even_ = !model_.includes(customer);
    for (std::size_t i = 0; i < items_.size() && !is_even_; ++i)
      model_.set_timing(customer, items_[i]->code, timings_[i]);
    for (std::size_t a = 0; a < items_.size(); ++a)
      for (std::size_t b = items_.size(); b-- > 0 && items_[b]->day > items_[a]->day;) add_pair(a, b);
  }

  /// Adds the sums of this thread to the counts.
  void finish() const {
    for (std::size_t earlier = 0; earlier < counts_.size() && !sums_.empty(); ++earlier)
      for (PairCount& pair : counts_[earlier]) pair.expected += sums_[earlier * counts_.size() + pair.later];
  }

 private:
  void add_pair(std::size_t a, std::size_t b) {
    const double p = is_even_ ? 0.5 : mining::probability_before(timings_[a], timings_[b]);
    const auto whole = static_cast<std::uint64_t>(p * PairCount::kScale + 0.5);
    const std::uint32_t earlier = items_[a]->code, later = items_[b]->code;
    if (!sums_.empty())
      sums_[earlier * counts_.size() + later] += whole;
    else
      std::atomic_ref(find_count(counts_, earlier, later)->expected)
          .fetch_add(whole, std::memory_order_relaxed);
  }

  const mining::Histories& histories_;
  const mining::FirstPurchases& model_;
  PairCounts& counts_;
  std::vector<std::uint64_t> sums_;  ///< by pair, if there are few items; threads would wait for each other
  bool is_even_ = false;             ///< of the present customer
  std::vector<const mining::HistoryEntry*> items_;
  std::vector<mining::FirstPurchases::Timing> timings_;
};

/// Of the customers of both ways of a pair, how many are expected to go forth.
double expected_forth(const PairCount& forth, const PairCount& back) {
  return static_cast<double>(forth.expected) / PairCount::kScale + back.one_way -
         static_cast<double>(back.expected) / PairCount::kScale;
}

/// Two-sided: twice the smaller tail of the binomial distribution with the mean of the customers'
/// probabilities. They differ, so the true tail is smaller still (Hoeffding, On the distribution of the
/// number of successes in independent trials, Annals of Mathematical Statistics 27, 1956).
double direction_test(const PairCount& forth, const PairCount& back) {
  const std::uint64_t all = std::uint64_t{forth.one_way} + back.one_way;
  const double rate = std::clamp(expected_forth(forth, back) / static_cast<double>(all), 0.0, 1.0);
  const double more = statistics::probability_of_at_least(forth.one_way, all, rate);
  const double less = statistics::probability_of_at_least(back.one_way, all, 1 - rate);
  return std::min(1.0, 2 * std::min(more, less));
}

}  // namespace

void expect_directions(const mining::Histories& histories, const mining::FirstPurchases& model,
                       PairCounts& counts) {
  constexpr std::uint32_t kPerRun = 4'096;
  tbb::enumerable_thread_specific<Expecter> expecters([&] { return Expecter(histories, model, counts); });
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, histories.customers(), kPerRun),
                    [&](const auto& run) {
                      Expecter& expecter = expecters.local();
                      for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
                        expecter.add(customer);
                    });
  for (const Expecter& expecter : expecters) expecter.finish();
}

void test_directions(const PairCounts& counts, std::uint32_t least, std::optional<std::uint32_t> about,
                     Transitions& found) {
  absl::flat_hash_map<std::pair<std::uint32_t, std::uint32_t>, std::size_t> tested;
  std::vector<double> p_values;
  for (std::uint32_t a = 0; a < counts.size(); ++a) {
    for (const PairCount& pair : counts[a]) {
      const std::uint32_t b = pair.later;
      const PairCount back = count_of(counts, b, a);
      const bool is_asked = a == about || b == about;
      if (a == b || (pair.one_way + back.one_way < least && !is_asked)) continue;
      if (tested.try_emplace(std::minmax(a, b), p_values.size()).second)
        p_values.push_back(direction_test(pair, back));
    }
  }
  found.directions_tested = p_values.size();
  const std::vector<double> q = statistics::q_values(p_values, p_values.size());
  for (Transition& pair : found.pairs) {
    if (pair.earlier == pair.later) continue;
    const PairCount own = count_of(counts, pair.earlier, pair.later),
                    back = count_of(counts, pair.later, pair.earlier);
    pair.reverse = back.customers;
    pair.other_way = back.one_way;
    pair.expected_one_way = expected_forth(own, back);
    const auto place = tested.find(std::minmax(pair.earlier, pair.later));
    if (place == tested.end()) continue;
    pair.p = p_values[place->second];
    pair.q = q[place->second];
  }
}

}  // namespace pear::sequence
