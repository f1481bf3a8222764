#include "recommender/rates/repurchase_rates.hpp"

#include <algorithm>
#include <utility>

#include "recommender/parallel_counting.hpp"

namespace pear::recommender {
namespace {

/// Counts one customer after another. One for each thread.
class RepurchaseCounter {
 public:
  RepurchaseCounter(const mining::Histories& histories, const Landmarks& landmarks)
      : histories_(histories),
        landmarks_(landmarks),
        counts_(histories.counts.size()),
        last_days_(histories.counts.size(), kNever) {}

  void look_at(std::uint32_t customer) {
    const auto history = histories_.of(customer);
    std::uint32_t read = 0;
    for_each_landmark(history, landmarks_, landmarks_.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read)
        if (std::exchange(last_days_[history[read].code], history[read].day) == kNever)
          had_.push_back(history[read].code);
      const auto next = history.subspan(now.known, now.seen - now.known);
      for (const std::uint32_t product : had_) {
        const std::int32_t last = last_days_[product];
        const RecencyState recency = RecencyState::of(now.day - last, now.last_day > last);
        const bool buys = std::any_of(next.begin(), next.end(), [&](const mining::HistoryEntry& entry) {
          return entry.code == product;
        });
        counts_[product][recency].add({1, buys ? 1U : 0U, 0});
        positions_.emplace_back(product, recency);
      }
    });
    std::sort(positions_.begin(), positions_.end());
    positions_.erase(std::unique(positions_.begin(), positions_.end()), positions_.end());
    for (const auto& [product, recency] : positions_) ++counts_[product][recency].customers;
    for (const std::uint32_t product : had_) last_days_[product] = kNever;
    positions_.clear();
    had_.clear();
  }

  void add(const RepurchaseCounter& other) {
    for (std::size_t product = 0; product < counts_.size(); ++product)
      for (const RecencyState recency : RecencyState::all())
        counts_[product][recency].add(other.counts_[product][recency]);
  }

  [[nodiscard]] std::vector<ByRecency<Observed>> take() { return std::move(counts_); }

 private:
  const mining::Histories& histories_;
  const Landmarks& landmarks_;
  std::vector<ByRecency<Observed>> counts_;  ///< by product
  std::vector<std::int32_t> last_days_;      ///< by product, of the present customer
  std::vector<std::uint32_t> had_;           ///< what the customer had bought by the landmark
  std::vector<std::pair<std::uint32_t, RecencyState>> positions_;  ///< in which the customer was
};

}  // namespace

RepurchaseRates RepurchaseRates::count(const mining::Histories& histories, const Landmarks& landmarks) {
  tbb::enumerable_thread_specific<RepurchaseCounter> counters(
      [&] { return RepurchaseCounter(histories, landmarks); });
  look_at_all(histories, counters);
  RepurchaseRates rates;
  rates.of_product_ = added_up(counters).take();
  std::vector<std::pair<std::uint32_t, std::uint32_t>> again;
  for (std::uint32_t product = 0; product < histories.counts.size(); ++product)
    again.emplace_back(product, product);
  rates.timings_ = time_steps(histories, again);
  return rates;
}

}  // namespace pear::recommender
