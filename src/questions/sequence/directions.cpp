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

/// Finds counts: in a table if there are few items, which is faster than a search.
class CountTable {
 public:
  explicit CountTable(PairCounts& counts) : counts_(counts) {
    constexpr std::size_t kMostCells = 4'000'000;
    if (counts.size() * counts.size() > kMostCells) return;
    table_.resize(counts.size() * counts.size());
    for (std::size_t earlier = 0; earlier < counts.size(); ++earlier)
      for (PairCount& pair : counts[earlier]) table_[earlier * counts.size() + pair.later] = &pair;
  }
  /// Of a pair that occurs.
  [[nodiscard]] PairCount& at(std::uint32_t earlier, std::uint32_t later) {
    return table_.empty() ? *find_count(counts_, earlier, later) : *table_[earlier * counts_.size() + later];
  }

 private:
  PairCounts& counts_;
  std::vector<PairCount*> table_;
};

/// Adds what is expected of customers, one after another. One for each thread.
class Expecter {
 public:
  Expecter(const mining::Histories& histories, const mining::PurchaseCalendar& calendar, CountTable& counts)
      : histories_(histories), calendar_(calendar), counts_(counts) {}

  void add(std::uint32_t customer) {
    items_.clear();
    for (const mining::HistoryEntry& entry : histories_.of(customer))
      if (entry.is_first != 0) items_.push_back(&entry);
    if (items_.size() < 2) return;
    choices_.resize(std::max(choices_.size(), items_.size()));
    // One id for all cash sales has thousands of visits: there, both orders count as equally likely. That one
    // customer changes no test, but would take minutes, and its numbers of choices leave the range of
    // doubles.
    constexpr std::uint32_t kMostVisits = 500;
    is_even_ = calendar_.visits(customer) > kMostVisits;
    for (std::size_t i = 0; i < items_.size() && !is_even_; ++i)
      calendar_.choose(customer, items_[i]->code, items_[i]->times, choices_[i]);
    for (std::size_t a = 0; a < items_.size(); ++a)
      for (std::size_t b = items_.size(); b-- > 0 && items_[b]->day >= items_[a]->last_day;)
        if (is_one_way(*items_[a], *items_[b])) add_pair(a, b);
  }

 private:
  void add_pair(std::size_t a, std::size_t b) {
    const double p = is_even_ ? 0.5 : choices_[a].probability_before(choices_[b]);
    PairCount& pair = counts_.at(items_[a]->code, items_[b]->code);
    const auto whole = [](double share) {
      return static_cast<std::uint64_t>(share * PairCount::kScale + 0.5);
    };
    std::atomic_ref(pair.expected).fetch_add(whole(p), std::memory_order_relaxed);
    std::atomic_ref(pair.variance).fetch_add(whole(p * (1 - p)), std::memory_order_relaxed);
  }

  const mining::Histories& histories_;
  const mining::PurchaseCalendar& calendar_;
  CountTable& counts_;
  bool is_even_ = false;  ///< of the present customer
  std::vector<const mining::HistoryEntry*> items_;
  std::vector<mining::PurchaseCalendar::Choices> choices_;
};

/// Customers of both ways of a pair: how many are expected each way.
struct Expected {
  double one_way = 0, other_way = 0, variance = 0;

  Expected(const PairCount& forth, const PairCount& back) {
    const double expected_forth = static_cast<double>(forth.expected) / PairCount::kScale,
                 expected_back = static_cast<double>(back.expected) / PairCount::kScale;
    one_way = expected_forth + back.one_way - expected_back;
    other_way = expected_back + forth.one_way - expected_forth;
    variance = static_cast<double>(forth.variance + back.variance) / PairCount::kScale;
  }
};

/// Two-sided: twice the smaller tail of the number of customers one way, whose probabilities differ. With
/// probabilities of a half it is the exact sign test.
double direction_test(const PairCount& forth, const PairCount& back) {
  const Expected expected(forth, back);
  constexpr double kCertain = 1e-6;  // the calendar decides
  if (expected.variance < kCertain) return 1;
  const double more =
      statistics::probability_of_clustered(forth.one_way, expected.one_way, expected.variance, 1);
  const double less =
      statistics::probability_of_clustered(back.one_way, expected.other_way, expected.variance, 1);
  return std::min(1.0, 2 * std::min(more, less));
}

}  // namespace

void expect_directions(const mining::Histories& histories, const mining::PurchaseCalendar& calendar,
                       PairCounts& counts) {
  constexpr std::uint32_t kPerRun = 4'096;
  CountTable table(counts);
  tbb::enumerable_thread_specific<Expecter> expecters([&] { return Expecter(histories, calendar, table); });
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, histories.customers(), kPerRun),
                    [&](const auto& run) {
                      Expecter& expecter = expecters.local();
                      for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
                        expecter.add(customer);
                    });
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
    pair.expected_one_way = Expected(own, back).one_way;
    const auto place = tested.find(std::minmax(pair.earlier, pair.later));
    if (place == tested.end()) continue;
    pair.p = p_values[place->second];
    pair.q = q[place->second];
  }
}

}  // namespace pear::sequence
