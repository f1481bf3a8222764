// What each step adds beside the others to the same product.
#include <algorithm>
#include <array>
#include <span>
#include <utility>

#include "recommender/step_exposure.hpp"
#include "recommender/step_tests.hpp"

namespace pear::recommender {
namespace {

constexpr std::size_t kMostSteps = 8;  ///< to one product

using RecencyCounts = std::array<BandCount, kStandings>;

/// The share of those who would not have bought without the step that does, where so many buy.
double excess_where(double buys, const BandCount& band, double overlap) {
  const double without = std::min(band.expected / band.cases, 1 - 1e-9);
  return std::max(0.0, (std::min(1.0, buys * overlap / band.cases) - without) / (1 - without));
}

/// What was seen, drawn to what was said before as if so many more had bought like that.
double drawn_to(double said, double seen, double drawn) { return (seen + drawn) * said / (said + drawn); }

/// What would be bought if a step added so much.
double with_excess(const BandCount& count, double excess, double overlap) {
  return (count.expected + excess * (count.cases - count.expected)) / overlap;
}

/// Over all groups. Each standing is drawn to that of the band before of those who have, or have not, ordered
/// since; the first ones to the surest stretch.
Uplift excess_of(const RecencyCounts& counts, std::size_t surest, double overlap) {
  constexpr double kWithin = 5, kBeyond = 0.5;
  BandCount first;
  for (std::size_t i = 0; i < surest; ++i)
    first.buys += counts[i].buys, first.cases += counts[i].cases, first.expected += counts[i].expected;
  std::array<double, 2> before;
  before.fill(excess_where(first.buys / overlap, first, overlap));
  Uplift excess{};
  for (std::size_t i = 0; i < kStandings; ++i) {
    if (counts[i].cases == 0) continue;
    const double said = with_excess(counts[i], before[i % 2], overlap);
    excess[i] = excess_where(drawn_to(said, counts[i].buys / overlap, i < surest ? kWithin : kBeyond),
                             counts[i], overlap);
    before[i % 2] = excess[i];
  }
  return excess;
}

/// Of one group: what would be bought if it followed the step as all do, times how much it follows it at all,
/// as if 3 more had followed it as all do; and in each standing as if 8 more had followed it like that.
Uplift excess_of_group(const RecencyCounts& counts, const Uplift& of_all, double overlap) {
  constexpr double kDrawn = 3, kDrawnInStanding = 8;
  double seen = kDrawn, said = kDrawn;
  for (std::size_t i = 0; i < kStandings; ++i)
    seen += counts[i].buys / overlap, said += with_excess(counts[i], of_all[i], overlap);
  Uplift excess{};
  for (std::size_t i = 0; i < kStandings; ++i) {
    if (counts[i].cases == 0) continue;
    const double own = with_excess(counts[i], of_all[i], overlap) * seen / said;
    excess[i] = excess_where(drawn_to(own, counts[i].buys / overlap, kDrawnInStanding), counts[i], overlap);
  }
  return excess;
}

/// The steps that are refined: to each product up to eight, the surest first.
class Ranks {
 public:
  Ranks(const std::vector<Step>& steps, std::size_t products, std::size_t groups)
      : to_(products), excess_(steps.size(), std::vector<Uplift>(groups)) {
    for (std::uint32_t step = 0; step < steps.size(); ++step) to_[steps[step].later].push_back(step);
    for (auto& own : to_) {
      std::stable_sort(own.begin(), own.end(), [&](std::uint32_t a, std::uint32_t b) {
        return steps[a].surely_more > steps[b].surely_more;
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
  /// By group; 0 as long as it is not known.
  [[nodiscard]] std::vector<Uplift>& excess(std::uint32_t step) { return excess_[step]; }
  [[nodiscard]] const std::vector<Uplift>& excess(std::uint32_t step) const { return excess_[step]; }

 private:
  std::vector<std::vector<std::uint32_t>> to_;  ///< by product
  std::vector<std::vector<Uplift>> excess_;     ///< by step
};

/// Steps to follow; the others to the same product are those of the first so many ranks.
std::vector<FollowedStep> followed_of(const std::vector<Step>& steps, const Ranks& ranks,
                                      const std::vector<std::uint32_t>& own, std::size_t known) {
  std::vector<FollowedStep> all;
  for (const std::uint32_t step : own) {
    all.push_back({steps[step].earlier, steps[step].later, {}});
    const auto& to = ranks.to(steps[step].later);
    for (std::size_t rank = 0; rank < std::min(known, to.size()); ++rank)
      if (to[rank] != step) all.back().others.push_back({steps[to[rank]].earlier, &ranks.excess(to[rank])});
  }
  return all;
}

/// What a step adds, by group: each group drawn to all.
void settle(Step& step, std::span<const RecencyCount> counts, double overlap, std::vector<Uplift>& excess) {
  constexpr double kNoChance = 0.05;
  const std::size_t groups = counts.size() / kStandings;
  excess.assign(groups, Uplift{});
  step.cells.clear();
  RecencyCounts all{};
  std::array<BandCount, kRecencyBandCount> bands{};
  std::vector<RecencyCounts> by_group(groups);
  for (std::size_t i = 0; i < counts.size(); ++i) {
    const std::size_t at = i % kStandings;
    for (BandCount* sum : {&by_group[i / kStandings][at], &all[at], &bands[at / 2]}) {
      sum->buys += counts[i].seen.buys, sum->cases += counts[i].seen.cases;
      sum->expected += counts[i].expected.value();
    }
  }
  const RecencyWindow surest = most_significant_window(bands, overlap);
  if (surest.p < kNoChance) {
    const Uplift of_all = excess_of(all, 2 * surest.end, overlap);
    for (std::size_t group = 0; group < groups; ++group)
      excess[group] = excess_of_group(by_group[group], of_all, overlap);
  }
  for (std::size_t at = 0; at < kStandings; ++at) {
    if (all[at].cases == 0) continue;
    FittedCell cell{static_cast<std::uint8_t>(at), {}, {}};
    for (std::size_t group = 0; group < groups; ++group) {
      const Observed& seen = counts[group * kStandings + at].seen;
      cell.seen.add(seen);
      cell.groups.push_back({seen, excess[group][at]});
    }
    step.cells.push_back(std::move(cell));
  }
}

}  // namespace

void fit_uplifts(const Baseline& base, std::vector<Step>& steps) {
  Ranks ranks(steps, base.histories.counts.size(), base.groups.count);
  const std::size_t size = base.groups.count * kStandings;
  const auto refine = [&](const std::vector<std::uint32_t>& own, std::size_t known, std::uint32_t apart) {
    const auto counts = count_exposures(base, followed_of(steps, ranks, own, known), apart);
    for (std::size_t i = 0; i < own.size(); ++i)
      settle(steps[own[i]], std::span(counts).subspan(i * size, size), base.lookback.overlap,
             ranks.excess(own[i]));
  };
  constexpr std::uint32_t kEnough = 100'000;
  const std::uint32_t apart = 1 + base.histories.customers() / kEnough;
  std::vector<std::uint32_t> all;
  for (std::size_t rank = 0; rank < kMostSteps; ++rank) {
    const std::vector<std::uint32_t> own = ranks.of(rank);
    refine(own, rank, apart);
    all.insert(all.end(), own.begin(), own.end());
  }
  refine(all, kMostSteps, 1);
}

}  // namespace pear::recommender
