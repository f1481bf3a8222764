#include "recommender/rates/pair_rates.hpp"

#include <algorithm>

#include "recommender/parallel_counting.hpp"

namespace pear::recommender {
namespace {

/// Counts one customer after another. One for each thread.
class PairRateCounter {
 public:
  PairRateCounter(const mining::Histories& histories, const Landmarks& landmarks,
                  const std::vector<PairRates::Pair>& pairs, const std::vector<std::size_t>& begins)
      : histories_(histories),
        landmarks_(landmarks),
        pairs_(pairs),
        begins_(begins),
        states_(histories.counts.size()),
        observed_(pairs.size()) {}

  void look_at(std::uint32_t customer) {
    days_.clear();
    const auto history = histories_.of(customer);
    for_each_landmark(history, landmarks_, landmarks_.days,
                      [&](const CustomerState& now) { days_.push_back(now.day); });
    if (days_.empty()) return;
    for (const mining::HistoryEntry& entry : history)
      if (entry.is_first != 0)
        states_[entry.code] = {first_from(entry.day), first_from(entry.day - landmarks_.horizon)};
    for (const mining::HistoryEntry& entry : history)
      if (entry.is_first != 0) count_pairs(entry.code);
    for (const mining::HistoryEntry& entry : history) states_[entry.code] = {};
  }

  void add(const PairRateCounter& other) {
    for (std::size_t pair = 0; pair < observed_.size(); ++pair) observed_[pair].add(other.observed_[pair]);
  }

  [[nodiscard]] std::vector<Observed> take() { return std::move(observed_); }

 private:
  static constexpr std::size_t kNotBought = 1'000'000;
  /// The first landmark at which the product was bought, and the first whose horizon contains the purchase.
  struct State {
    std::size_t had = kNotBought, seen = kNotBought;
  };

  [[nodiscard]] std::size_t first_from(std::int32_t day) const {
    return static_cast<std::size_t>(std::lower_bound(days_.begin(), days_.end(), day) - days_.begin());
  }

  void count_pairs(std::uint32_t earlier) {
    const std::size_t begin = states_[earlier].had;
    for (std::size_t pair = begins_[earlier]; pair < begins_[earlier + 1]; ++pair) {
      const State& later = states_[pairs_[pair].second];
      const std::size_t end = std::min(later.had, days_.size());
      if (begin >= end) continue;
      const std::size_t seen = std::clamp(later.seen, begin, end);
      observed_[pair].add(
          {static_cast<std::uint32_t>(end - begin), static_cast<std::uint32_t>(end - seen), 1});
    }
  }

  const mining::Histories& histories_;
  const Landmarks& landmarks_;
  const std::vector<PairRates::Pair>& pairs_;
  const std::vector<std::size_t>& begins_;  ///< by earlier product
  std::vector<State> states_;               ///< by product
  std::vector<std::int32_t> days_;          ///< landmarks at which the customer was active
  std::vector<Observed> observed_;          ///< by pair
};

}  // namespace

PairRates PairRates::count(const mining::Histories& histories, const Landmarks& landmarks,
                           std::vector<Pair> pairs) {
  PairRates rates;
  std::sort(pairs.begin(), pairs.end());
  pairs.erase(std::unique(pairs.begin(), pairs.end()), pairs.end());
  rates.pairs_ = std::move(pairs);
  std::vector<std::size_t> begins(histories.counts.size() + 1);
  for (const auto& [earlier, later] : rates.pairs_) ++begins[earlier + 1];
  for (std::size_t product = 1; product < begins.size(); ++product) begins[product] += begins[product - 1];
  tbb::enumerable_thread_specific<PairRateCounter> counters(
      [&] { return PairRateCounter(histories, landmarks, rates.pairs_, begins); });
  look_at_all(histories, counters);
  rates.observed_ = added_up(counters).take();
  return rates;
}

const Observed& PairRates::of(std::uint32_t earlier, std::uint32_t later) const {
  const auto found = std::lower_bound(pairs_.begin(), pairs_.end(), Pair(earlier, later));
  return observed_[static_cast<std::size_t>(found - pairs_.begin())];
}

}  // namespace pear::recommender
