#include "recommender/step_exposure.hpp"

#include <algorithm>
#include <utility>

#include "recommender/parallel_counting.hpp"
namespace pear::recommender {
namespace {

/// Follows one customer after another along steps. One for each thread.
class StepFollower {
 public:
  StepFollower(const Baseline& base, const std::vector<FollowedStep>& steps)
      : base_(base),
        steps_(steps),
        starts_(base.histories.counts.size()),
        last_days_(base.histories.counts.size(), kNever),
        standings_(base.histories.counts.size(), kNone),
        anyway_(base.histories.counts.size()),
        bought_at_(base.histories.counts.size()),
        of_shelf_(base.shelves.count),
        standings_before_(steps.size()),
        counts_(steps.size() * base.groups.count * kStandings) {
    for (std::uint32_t step = 0; step < steps.size(); ++step) starts_[steps[step].earlier].push_back(step);
  }

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    std::uint32_t read = 0;
    for_each_landmark(history, base_.lookback, base_.lookback.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read) take(history[read]);
      if (followed_.empty()) return;
      ++cases_;
      for (const std::uint32_t product : had_)
        standings_[product] = static_cast<std::uint8_t>(
            standing_of(now.day - last_days_[product], now.last_day > last_days_[product]));
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry)
        bought_at_[history[entry].code] = cases_;
      const std::uint32_t group = base_.groups.group_of(customer);
      const double items = base_.items.at(customer, now.landmark);
      for (const std::uint32_t step : followed_) count(step, group, items, now.known);
    });
    for (const std::uint32_t product : had_) last_days_[product] = kNever, standings_[product] = kNone;
    std::fill(of_shelf_.begin(), of_shelf_.end(), 0);
    for (const std::uint32_t step : followed_) standings_before_[step] = 0;
    had_.clear(), followed_.clear();
  }

  void add(const StepFollower& other) {
    for (std::size_t i = 0; i < counts_.size(); ++i) counts_[i].add(other.counts_[i]);
  }
  /// By step, then group, then standing.
  [[nodiscard]] const std::vector<RecencyCount>& counts() const { return counts_; }

 private:
  static constexpr std::uint8_t kNone = 0xFF;
  struct Anyway {
    std::uint64_t at = 0;  ///< the case
    double chance = 0;
  };

  void take(const mining::HistoryEntry& entry) {
    ++of_shelf_[base_.shelves.of_product[entry.code]];
    if (std::exchange(last_days_[entry.code], entry.day) != kNever) return;
    had_.push_back(entry.code);
    followed_.insert(followed_.end(), starts_[entry.code].begin(), starts_[entry.code].end());
  }

  /// That a product is bought without any step: worked out once in a case.
  double anyway(std::uint32_t product, std::uint32_t group, double items, std::uint32_t known) {
    Anyway& anyway = anyway_[product];
    if (std::exchange(anyway.at, cases_) == cases_) return anyway.chance;
    const std::uint32_t shelf = base_.shelves.of_product[product];
    anyway.chance = probability_of_any(items * base_.shares.of_shelf(group, shelf, of_shelf_[shelf], known) *
                                           base_.shares.of_product(group, product),
                                       base_.items.dispersion());
    return anyway.chance;
  }

  void count(std::uint32_t at, std::uint32_t group, double items, std::uint32_t known) {
    const FollowedStep& step = steps_[at];
    if (standings_[step.later] != kNone && step.earlier != step.later) return;
    double none = 1 - anyway(step.later, group, items, known);
    for (const FollowedStep::Other& other : step.others)
      if (const std::uint8_t standing = standings_[other.earlier]; standing != kNone)
        none *= 1 - (*other.excess)[group][standing];
    const std::uint8_t standing = standings_[step.earlier];
    const std::uint32_t bit = 1U << standing;
    RecencyCount& own = counts_[(at * base_.groups.count + group) * kStandings + standing];
    ++own.seen.cases;
    own.seen.buys += bought_at_[step.later] == cases_ ? 1U : 0U;
    own.seen.customers += (standings_before_[at] & bit) == 0 ? 1U : 0U;
    own.expected.add(1 - none);
    standings_before_[at] |= bit;
  }

  const Baseline& base_;
  const std::vector<FollowedStep>& steps_;
  std::vector<std::vector<std::uint32_t>> starts_;  ///< by product, the steps from it
  std::vector<std::int32_t> last_days_;             ///< by product
  std::vector<std::uint8_t> standings_;             ///< by product, of the case
  std::vector<Anyway> anyway_;                      ///< by product
  std::vector<std::uint64_t> bought_at_;  ///< by product the case within whose horizon it was bought
  std::uint64_t cases_ = 0;
  std::vector<std::uint32_t> of_shelf_;
  std::vector<std::uint32_t> had_;               ///< what the customer has
  std::vector<std::uint32_t> followed_;          ///< steps whose earlier product the customer has
  std::vector<std::uint32_t> standings_before_;  ///< by step, bits of those in which the customer was seen
  std::vector<RecencyCount> counts_;
};

}  // namespace

std::vector<RecencyCount> count_exposures(const Baseline& base, const std::vector<FollowedStep>& steps,
                                          std::uint32_t apart) {
  tbb::enumerable_thread_specific<StepFollower> followers([&] { return StepFollower(base, steps); });
  look_at_all(base.histories, followers, apart);
  return added_up(followers).counts();
}

}  // namespace pear::recommender
