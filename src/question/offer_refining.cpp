// What each step adds to those that are surer.
#include <algorithm>
#include <array>
#include <span>
#include <utility>

#include "question/offer_following.hpp"
#include "question/offer_steps.hpp"

namespace pear {
namespace {

constexpr std::size_t kMostSteps = 8;  ///< to one product

using Counts = std::array<BandCount, kStandings>;

/// The share of those who would not have bought without the step that does, where so many buy.
double excess_where(double buys, const BandCount& band, double overlap) {
  const double without = std::min(band.expected / band.cases, 1 - 1e-9);
  return std::max(0.0, (std::min(1.0, buys * overlap / band.cases) - without) / (1 - without));
}

/// Over all groups. Each standing is drawn to that of the band before of those who have, or have not, ordered
/// since.
Excess excess_of(const Counts& counts, std::size_t surest, double overlap) {
  constexpr double kDrawn = 3, kLeastDrawn = 0.5;
  const auto ratio_of = [&](std::size_t end) {
    double seen = kDrawn, usual = kDrawn;
    for (std::size_t i = 0; i < end; ++i)
      seen += counts[i].buys / overlap, usual += counts[i].expected / overlap;
    return seen / usual;
  };
  const double of_all = ratio_of(kStandings);
  double beyond = 0, squares = 0;
  for (const BandCount& band : counts) {
    const double expected = band.expected / overlap, off = band.buys / overlap - of_all * expected;
    beyond += off * off - of_all * expected;
    squares += expected * expected;
  }
  const double spread = squares > 0 ? std::max(0.0, beyond / squares) : 0;
  Excess excess{};
  std::array<double, 2> ratios;  // of the band before
  ratios.fill(ratio_of(surest));
  for (std::size_t i = 0; i < kStandings; ++i) {
    const BandCount& count = counts[i];
    if (count.cases == 0) continue;
    double& ratio = ratios[i % 2];
    if (spread > 0) {
      const double drawn = std::max(kLeastDrawn, of_all / spread);
      ratio = (count.buys / overlap + ratio * drawn) / (count.expected / overlap + drawn);
    }
    excess[i] = excess_where(ratio * count.expected / overlap, count, overlap);
  }
  return excess;
}

/// Of one group: what would be bought if it followed the step as all do, times how much it follows it at all,
/// as if 3 more had followed it as all do; and in each standing as if 4 more had followed it like that.
Excess excess_of_group(const Counts& counts, const Excess& of_all, double overlap) {
  constexpr double kDrawn = 3, kDrawnInStanding = 4;
  const auto as_all = [&](std::size_t i) {
    return (counts[i].expected + of_all[i] * (counts[i].cases - counts[i].expected)) / overlap;
  };
  double seen = kDrawn, said = kDrawn;
  for (std::size_t i = 0; i < kStandings; ++i) seen += counts[i].buys / overlap, said += as_all(i);
  Excess excess{};
  for (std::size_t i = 0; i < kStandings; ++i) {
    if (counts[i].cases == 0) continue;
    const double before = as_all(i) * seen / said;
    const double buys = (counts[i].buys / overlap + kDrawnInStanding) * before / (before + kDrawnInStanding);
    excess[i] = excess_where(buys, counts[i], overlap);
  }
  return excess;
}

/// The steps that are refined: to each product up to eight, the surest first.
class Ranks {
 public:
  Ranks(const std::vector<FoundStep>& steps, std::size_t products, std::size_t groups)
      : to_(products), excess_(steps.size(), std::vector<Excess>(groups)) {
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
  [[nodiscard]] std::vector<Excess>& excess(std::uint32_t step) { return excess_[step]; }
  [[nodiscard]] const std::vector<Excess>& excess(std::uint32_t step) const { return excess_[step]; }

 private:
  std::vector<std::vector<std::uint32_t>> to_;  ///< by product
  std::vector<std::vector<Excess>> excess_;     ///< by step
};

/// The steps of a rank; others are those of the first so many ranks.
std::vector<Followed> followed_of(const std::vector<FoundStep>& steps, const Ranks& ranks,
                                  const std::vector<std::uint32_t>& of_rank, std::size_t known) {
  std::vector<Followed> all;
  for (const std::uint32_t step : of_rank) {
    all.push_back({steps[step].earlier, steps[step].later, {}});
    const auto& to = ranks.to(steps[step].later);
    for (std::size_t rank = 0; rank < std::min(known, to.size()); ++rank)
      if (to[rank] != step) all.back().others.push_back({steps[to[rank]].earlier, &ranks.excess(to[rank])});
  }
  return all;
}

/// What a step adds, by group: each group drawn to all.
void settle(FoundStep& step, std::span<const StandingCount> counts, double overlap,
            std::vector<Excess>& excess) {
  constexpr double kNoChance = 0.05;
  const std::size_t groups = counts.size() / kStandings;
  excess.assign(groups, Excess{});
  step.cells.clear();
  Counts all{};
  std::array<BandCount, kAgeBandCount> bands{};
  std::vector<Counts> by_group(groups);
  for (std::size_t i = 0; i < counts.size(); ++i) {
    const std::size_t at = i % kStandings;
    for (BandCount* sum : {&by_group[i / kStandings][at], &all[at], &bands[at / 2]}) {
      sum->buys += counts[i].seen.buys, sum->cases += counts[i].seen.cases;
      sum->expected += counts[i].expected.value();
    }
  }
  const Stretch surest = surest_stretch(bands, overlap);
  if (surest.p < kNoChance) {
    const Excess of_all = excess_of(all, 2 * surest.end, overlap);
    for (std::size_t group = 0; group < groups; ++group)
      excess[group] = excess_of_group(by_group[group], of_all, overlap);
  }
  for (std::size_t at = 0; at < kStandings; ++at) {
    if (all[at].cases == 0) continue;
    FoundCell cell{static_cast<std::uint8_t>(at), {}, {}};
    for (std::size_t group = 0; group < groups; ++group) {
      const Seen& seen = counts[group * kStandings + at].seen;
      cell.seen.cases += seen.cases, cell.seen.buys += seen.buys, cell.seen.customers += seen.customers;
      cell.groups.push_back({seen, excess[group][at]});
    }
    step.cells.push_back(std::move(cell));
  }
}

}  // namespace

void refine_steps(const OfferBase& base, std::vector<FoundStep>& steps) {
  Ranks ranks(steps, base.histories.counts.size(), base.groups.count);
  const std::size_t size = base.groups.count * kStandings;
  const auto refine = [&](const std::vector<std::uint32_t>& own, std::size_t known, std::uint32_t apart) {
    const auto counts = follow(base, followed_of(steps, ranks, own, known), apart);
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

}  // namespace pear
