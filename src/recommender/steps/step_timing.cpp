#include "recommender/steps/step_timing.hpp"

#include <algorithm>
#include <span>

#include "recommender/parallel_counting.hpp"
#include "recommender/recency.hpp"
#include "statistics/quantile.hpp"

namespace pear::recommender {
namespace {

/// Days between the purchases of pairs, of one customer after another. One for each thread.
class StepTimer {
 public:
  StepTimer(const mining::Histories& histories, const std::vector<StepTiming>& pairs)
      : histories_(histories),
        pairs_(pairs),
        to_(histories.counts.size()),
        last_days_(histories.counts.size(), kNever),
        days_(pairs.size()),
        together_(pairs.size()) {
    for (std::uint32_t pair = 0; pair < pairs.size(); ++pair) to_[pairs[pair].later].push_back(pair);
  }

  void look_at(std::uint32_t customer) {
    const auto history = histories_.of(customer);
    for (std::size_t begin = 0, end = 0; begin < history.size(); begin = end) {
      while (end < history.size() && history[end].order == history[begin].order) ++end;
      const auto order = history.subspan(begin, end - begin);
      for (const mining::HistoryEntry& entry : order) take(entry, order);
      for (const mining::HistoryEntry& entry : order) last_days_[entry.code] = entry.day;
    }
    for (const mining::HistoryEntry& entry : history) last_days_[entry.code] = kNever;
  }

  void add(const StepTimer& other) {
    for (std::size_t pair = 0; pair < pairs_.size(); ++pair) {
      days_[pair].insert(days_[pair].end(), other.days_[pair].begin(), other.days_[pair].end());
      together_[pair] += other.together_[pair];
    }
  }

  void fill(std::size_t pair, StepTiming& timing) {
    if (days_[pair].empty()) return;
    timing.purchases = static_cast<std::uint32_t>(days_[pair].size());
    timing.together = together_[pair];
    const statistics::Quartiles days = statistics::quartiles_of(days_[pair]);
    timing.days_p25 = days.lower, timing.days_median = days.median, timing.days_p75 = days.upper;
  }

 private:
  void take(const mining::HistoryEntry& entry, std::span<const mining::HistoryEntry> order) {
    constexpr std::int32_t kYear = 365;
    for (const std::uint32_t pair : to_[entry.code]) {
      const std::uint32_t earlier = pairs_[pair].earlier;
      const std::int32_t last = last_days_[earlier];
      if (last == kNever || last >= entry.day || entry.day - last > kYear) continue;
      if (entry.is_first == 0 && entry.code != earlier) continue;
      days_[pair].push_back(entry.day - last);
      const bool is_together =
          std::any_of(order.begin(), order.end(),
                      [&](const mining::HistoryEntry& other) { return other.code == earlier; });
      if (entry.code != earlier && is_together) ++together_[pair];
    }
  }

  const mining::Histories& histories_;
  const std::vector<StepTiming>& pairs_;
  std::vector<std::vector<std::uint32_t>> to_;  ///< by product, the pairs that end with it
  std::vector<std::int32_t> last_days_;         ///< by product
  std::vector<std::vector<std::int32_t>> days_;
  std::vector<std::uint32_t> together_;
};

}  // namespace

std::vector<StepTiming> time_steps(const mining::Histories& histories,
                                   const std::vector<std::pair<std::uint32_t, std::uint32_t>>& pairs) {
  std::vector<StepTiming> timings;
  for (const auto& [earlier, later] : pairs) timings.push_back({earlier, later, 0, 0, 0, 0, 0});
  tbb::enumerable_thread_specific<StepTimer> timers([&] { return StepTimer(histories, timings); });
  look_at_all(histories, timers);
  StepTimer& all = added_up(timers);
  tbb::parallel_for(std::size_t{0}, timings.size(), [&](std::size_t pair) { all.fill(pair, timings[pair]); });
  return timings;
}

}  // namespace pear::recommender
