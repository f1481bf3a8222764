#include "recommender/steps/step_uplift.hpp"

#include <algorithm>
#include <array>
#include <span>
#include <utility>

#include "recommender/prior_weights.hpp"

namespace pear::recommender {
namespace {

constexpr std::size_t kMostSteps = 8;  ///< to one product; further ones are rare and add little
constexpr std::uint32_t kEnough =
    100'000;  ///< customers for deciding the order in which steps explain one another
constexpr double kSignificant = 0.05;        ///< p value of the window of a step next to the others
constexpr double kAlmostCertain = 1 - 1e-9;  ///< a larger baseline leaves no room for an uplift

using RecencyBands = ByRecency<BandCount>;

/// The uplift at which this many purchases are expected: (purchases / exposures - baseline) / (1 - baseline),
/// 0 to 1.
double uplift_with(double purchases, const BandCount& count, double overlap) {
  const double without = std::min(count.expected / count.exposures, kAlmostCertain);
  return std::max(0.0, (std::min(1.0, purchases * overlap / count.exposures) - without) / (1 - without));
}

/// The purchases expected with an uplift: (expected + uplift x (exposures - expected)) / overlap.
double purchases_with(const BandCount& count, double uplift, double overlap) {
  return (count.expected + uplift * (count.exposures - count.expected)) / overlap;
}

/// Observed purchases shrunk towards those that the prior expects: (observed + weight) x prior / (prior +
/// weight).
double shrunk_towards(double prior, double observed, double weight) {
  return (observed + weight) * prior / (prior + weight);
}

/// For all groups. Each recency state is shrunk towards that of the band before, separately for customers who
/// have, or have not, ordered since; the first ones towards the whole window.
Uplift uplift_of_all(const RecencyBands& counts, std::size_t window_end, double overlap) {
  BandCount window;
  for (const RecencyState state : RecencyState::all())
    if (state.band() < window_end) window.add(counts[state]);
  const double of_window = uplift_with(window.purchases / overlap, window, overlap);
  std::array<double, 2> before = {of_window, of_window};  // not ordered since, and ordered since
  Uplift uplift{};
  for (const RecencyState state : RecencyState::all()) {
    const BandCount& count = counts[state];
    if (count.exposures == 0) continue;
    double& prior = before.at(state.ordered_since() ? 1 : 0);
    const double weight =
        state.band() < window_end ? prior_weight::kUpliftWithinWindow : prior_weight::kUpliftBeyondWindow;
    const double expected = purchases_with(count, prior, overlap);
    uplift[state] = uplift_with(shrunk_towards(expected, count.purchases / overlap, weight), count, overlap);
    prior = uplift[state];
  }
  return uplift;
}

/// For one group: the purchases expected if it responded to the step as all customers do, times the strength
/// of its response.
Uplift uplift_of_group(const RecencyBands& counts, const Uplift& of_all, double overlap) {
  double observed = prior_weight::kGroupUplift, expected = prior_weight::kGroupUplift;
  for (const RecencyState state : RecencyState::all()) {
    observed += counts[state].purchases / overlap;
    expected += purchases_with(counts[state], of_all[state], overlap);
  }
  Uplift uplift{};
  for (const RecencyState state : RecencyState::all()) {
    const BandCount& count = counts[state];
    if (count.exposures == 0) continue;
    const double own = purchases_with(count, of_all[state], overlap) * observed / expected;
    uplift[state] = uplift_with(
        shrunk_towards(own, count.purchases / overlap, prior_weight::kGroupUpliftInState), count, overlap);
  }
  return uplift;
}

/// The steps that are fitted: to each product up to eight, the one with the largest lower bound of uplift
/// first.
class Ranks {
 public:
  Ranks(const std::vector<Step>& steps, std::size_t products) : to_(products) {
    for (std::uint32_t step = 0; step < steps.size(); ++step) to_[steps[step].later].push_back(step);
    for (auto& own : to_) {
      std::stable_sort(own.begin(), own.end(), [&](std::uint32_t a, std::uint32_t b) {
        return steps[a].uplift_lower_bound > steps[b].uplift_lower_bound;
      });
      own.resize(std::min(own.size(), kMostSteps));
    }
  }

  /// To a product, by rank.
  [[nodiscard]] const std::vector<std::uint32_t>& to(std::uint32_t product) const { return to_[product]; }
  /// To any product, of one rank.
  [[nodiscard]] std::vector<std::uint32_t> of(std::size_t rank) const {
    std::vector<std::uint32_t> steps;
    for (const auto& own : to_)
      if (rank < own.size()) steps.push_back(own[rank]);
    return steps;
  }

 private:
  std::vector<std::vector<std::uint32_t>> to_;  ///< by product
};

/// By step, then group; 0 until it has been fitted.
using Uplifts = std::vector<std::vector<Uplift>>;

/// Steps to follow; the others to the same product are those with the lowest ranks, this many.
std::vector<FollowedStep> followed_of(const std::vector<Step>& steps, const Ranks& ranks,
                                      const Uplifts& uplifts, const std::vector<std::uint32_t>& own,
                                      std::size_t known) {
  std::vector<FollowedStep> all;
  for (const std::uint32_t step : own) {
    all.push_back({steps[step].earlier, steps[step].later, {}});
    const auto& to = ranks.to(steps[step].later);
    for (std::size_t rank = 0; rank < std::min(known, to.size()); ++rank)
      if (to[rank] != step) all.back().others.push_back({steps[to[rank]].earlier, &uplifts[to[rank]]});
  }
  return all;
}

/// By group: each group shrunk towards all, if the step is significant next to the others.
std::vector<Uplift> fit_groups(std::span<const ByRecency<RecencyCount>> counts, double overlap) {
  RecencyBands all{};
  std::array<BandCount, kRecencyBands.size()> bands{};
  std::vector<RecencyBands> by_group(counts.size());
  for (std::size_t group = 0; group < counts.size(); ++group)
    for (const RecencyState state : RecencyState::all()) {
      const RecencyCount& own = counts[group][state];
      const BandCount count{static_cast<double>(own.observed.purchases),
                            static_cast<double>(own.observed.exposures), own.expected.value()};
      by_group[group][state].add(count);
      all[state].add(count);
      bands.at(state.band()).add(count);
    }
  std::vector<Uplift> uplifts(counts.size());
  const RecencyWindow window = most_significant_window(bands, overlap);
  if (window.p >= kSignificant) return uplifts;
  const Uplift of_all = uplift_of_all(all, window.end, overlap);
  for (std::size_t group = 0; group < counts.size(); ++group)
    uplifts[group] = uplift_of_group(by_group[group], of_all, overlap);
  return uplifts;
}

/// The recency states with exposures.
std::vector<FittedCell> cells_of(std::span<const ByRecency<RecencyCount>> counts,
                                 const std::vector<Uplift>& uplifts) {
  std::vector<FittedCell> cells;
  for (const RecencyState state : RecencyState::all()) {
    FittedCell cell{state, {}, {}};
    for (std::size_t group = 0; group < counts.size(); ++group) {
      const Observed& observed = counts[group][state].observed;
      cell.observed.add(observed);
      cell.groups.push_back({observed, uplifts[group][state]});
    }
    if (cell.observed.exposures > 0) cells.push_back(std::move(cell));
  }
  return cells;
}

}  // namespace

std::vector<FittedStep> fit_uplifts(const Baseline& base, const std::vector<Step>& steps) {
  const Ranks ranks(steps, base.products());
  const std::size_t groups = base.groups.count;
  Uplifts uplifts(steps.size(), std::vector<Uplift>(groups));
  const auto counted = [&](const std::vector<std::uint32_t>& own, std::size_t known, CustomerSample sample) {
    return count_exposures(base, followed_of(steps, ranks, uplifts, own, known), sample);
  };
  const auto of_step = [&](const auto& counts, std::size_t i) {
    return std::span(counts).subspan(i * groups, groups);
  };
  const CustomerSample sample = CustomerSample::of_about(kEnough, base.histories.customers());
  std::vector<std::uint32_t> all;
  for (std::size_t rank = 0; rank < kMostSteps; ++rank) {
    const std::vector<std::uint32_t> own = ranks.of(rank);
    const auto counts = counted(own, rank, sample);
    for (std::size_t i = 0; i < own.size(); ++i)
      uplifts[own[i]] = fit_groups(of_step(counts, i), base.landmarks.overlap);
    all.insert(all.end(), own.begin(), own.end());
  }
  std::vector<FittedStep> fitted;
  for (const Step& step : steps) fitted.push_back({step.earlier, step.later, {}});
  const auto counts = counted(all, kMostSteps, {});
  for (std::size_t i = 0; i < all.size(); ++i)
    fitted[all[i]].cells =
        cells_of(of_step(counts, i), fit_groups(of_step(counts, i), base.landmarks.overlap));
  return fitted;
}

}  // namespace pear::recommender
