#include "recommender/steps/step_exposure.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include "recommender/parallel_counting.hpp"

namespace pear::recommender {
namespace {

/// What is known of the current customer.
struct FollowedCustomer {
  std::vector<std::int32_t> last_days;               ///< by product
  std::vector<std::optional<RecencyState>> recency;  ///< by product, at the landmark
  std::vector<std::uint32_t> of_category;
  std::vector<std::uint32_t> had;            ///< what the customer has bought
  std::vector<std::uint32_t> steps;          ///< those whose earlier product the customer has bought
  std::vector<std::uint32_t> states_before;  ///< by step, bits of the recency states the customer was in

  FollowedCustomer(const Baseline& base, std::size_t all_steps)
      : last_days(base.products(), kNever),
        recency(base.products()),
        of_category(base.categories.count),
        states_before(all_steps) {}
  void clear() {
    for (const std::uint32_t product : had) last_days[product] = kNever, recency[product].reset();
    for (const std::uint32_t step : steps) states_before[step] = 0;
    std::fill(of_category.begin(), of_category.end(), 0);
    had.clear(), steps.clear();
  }
};

/// Follows one customer after another along steps. One for each thread.
class StepFollower {
 public:
  StepFollower(const Baseline& base, const std::vector<FollowedStep>& steps)
      : base_(base),
        steps_(steps),
        starts_(base.products()),
        customer_(base, steps.size()),
        baselines_(base.products()),
        bought_at_(base.products()),
        counts_(steps.size() * base.groups.count) {
    for (std::uint32_t step = 0; step < steps.size(); ++step) starts_[steps[step].earlier].push_back(step);
  }

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    const std::uint32_t group = base_.groups.group_of(customer);
    std::uint32_t read = 0;
    for_each_landmark(history, base_.landmarks, base_.landmarks.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read) take(history[read]);
      if (customer_.steps.empty()) return;
      ++exposure_;
      for (const std::uint32_t product : customer_.had)
        customer_.recency[product] = RecencyState::of(now.day - customer_.last_days[product],
                                                      now.last_day > customer_.last_days[product]);
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry)
        bought_at_[history[entry].code] = exposure_;
      const double items = base_.rate.at(customer, now.landmark);
      for (const std::uint32_t step : customer_.steps) count(step, group, items, now.known);
    });
    customer_.clear();
  }

  void add(const StepFollower& other) {
    for (std::size_t i = 0; i < counts_.size(); ++i)
      for (const RecencyState state : RecencyState::all()) counts_[i][state].add(other.counts_[i][state]);
  }
  /// By step, then group.
  [[nodiscard]] const std::vector<ByRecency<RecencyCount>>& counts() const { return counts_; }

 private:
  struct KnownBaseline {
    std::uint64_t at = 0;  ///< the exposure
    double probability = 0;
  };

  void take(const mining::HistoryEntry& entry) {
    ++customer_.of_category[base_.categories.of_product[entry.code]];
    if (std::exchange(customer_.last_days[entry.code], entry.day) != kNever) return;
    customer_.had.push_back(entry.code);
    customer_.steps.insert(customer_.steps.end(), starts_[entry.code].begin(), starts_[entry.code].end());
  }

  /// The probability of a product without any step, computed once at an exposure.
  double baseline(std::uint32_t product, std::uint32_t group, double items, std::uint32_t known) {
    KnownBaseline& baseline = baselines_[product];
    if (std::exchange(baseline.at, exposure_) == exposure_) return baseline.probability;
    const std::uint32_t category = base_.categories.of_product[product];
    const double share = base_.shares.of_category(group, category, customer_.of_category[category], known);
    baseline.probability = base_.probability(items * share, group, product);
    return baseline.probability;
  }

  void count(std::uint32_t at, std::uint32_t group, double items, std::uint32_t known) {
    const FollowedStep& step = steps_[at];
    if (customer_.recency[step.later] && step.earlier != step.later) return;
    double none = 1 - baseline(step.later, group, items, known);
    for (const FollowedStep::Other& other : step.others)
      if (const auto& recency = customer_.recency[other.earlier])
        none *= 1 - (*other.uplift)[group][*recency];
    const RecencyState recency = *customer_.recency[step.earlier];
    const std::uint32_t bit = 1U << recency.index();
    RecencyCount& own = counts_[at * base_.groups.count + group][recency];
    ++own.observed.exposures;
    own.observed.purchases += bought_at_[step.later] == exposure_ ? 1U : 0U;
    own.observed.customers += (customer_.states_before[at] & bit) == 0 ? 1U : 0U;
    own.expected.add(1 - none);
    customer_.states_before[at] |= bit;
  }

  const Baseline& base_;
  const std::vector<FollowedStep>& steps_;
  std::vector<std::vector<std::uint32_t>> starts_;  ///< by product, the steps from it
  FollowedCustomer customer_;
  std::uint64_t exposure_ = 0;            ///< the number of the current one
  std::vector<KnownBaseline> baselines_;  ///< by product
  std::vector<std::uint64_t> bought_at_;  ///< by product the exposure within whose horizon it was bought
  std::vector<ByRecency<RecencyCount>> counts_;
};

}  // namespace

std::vector<ByRecency<RecencyCount>> count_exposures(const Baseline& base,
                                                     const std::vector<FollowedStep>& steps,
                                                     CustomerSample sample) {
  tbb::enumerable_thread_specific<StepFollower> followers([&] { return StepFollower(base, steps); });
  look_at_all(base.histories, followers, sample);
  return added_up(followers).counts();
}

}  // namespace pear::recommender
