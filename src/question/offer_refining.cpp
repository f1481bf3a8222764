// What each step adds to those that are surer.
#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include <tbb/enumerable_thread_specific.h>

#include "question/offer_steps.hpp"

namespace pear {
namespace {

constexpr std::size_t kMostSteps = 8;  ///< to one product
constexpr std::uint8_t kNoSlot = 0xFF;

using Bands = std::array<BandCount, kAgeBandCount>;
using Excess = std::array<double, kAgeBandCount>;

/// The share of those who would not have bought without the step that does, where so many buy.
double excess_where(double buys, const BandCount& band, double overlap) {
  const double without = std::min(band.expected / band.cases, 1 - 1e-9);
  return std::max(0.0, (std::min(1.0, buys * overlap / band.cases) - without) / (1 - without));
}

/// By band, over all groups.
Excess excess_of(const Bands& bands, double overlap) {
  constexpr double kDrawn = 3, kLeastDrawn = 0.5;
  double seen = kDrawn, usual = kDrawn;
  for (const BandCount& band : bands) seen += band.buys / overlap, usual += band.expected / overlap;
  const double of_all = seen / usual;
  double beyond = 0, squares = 0;
  for (const BandCount& band : bands) {
    const double expected = band.expected / overlap, off = band.buys / overlap - of_all * expected;
    beyond += off * off - of_all * expected;
    squares += expected * expected;
  }
  const double spread = squares > 0 ? std::max(0.0, beyond / squares) : 0;
  Excess excess{};
  double ratio = of_all;  // of the band before
  for (std::size_t i = 0; i < kAgeBandCount; ++i) {
    const BandCount& band = bands[i];
    if (band.cases == 0) continue;
    if (spread > 0) {
      const double drawn = std::max(kLeastDrawn, of_all / spread);
      ratio = (band.buys / overlap + ratio * drawn) / (band.expected / overlap + drawn);
    }
    excess[i] = excess_where(ratio * band.expected / overlap, band, overlap);
  }
  return excess;
}

/// By band, of one group: what would be bought if it followed the step as all do, times how much it follows
/// it at all, as if 3 more had followed it as all do; and in each band as if 2 more had followed it like
/// that.
Excess excess_of_group(const Bands& bands, const Excess& of_all, double overlap) {
  constexpr double kDrawn = 3, kDrawnInBand = 2;
  const auto as_all = [&](std::size_t i) {
    return (bands[i].expected + of_all[i] * (bands[i].cases - bands[i].expected)) / overlap;
  };
  double seen = kDrawn, said = kDrawn;
  for (std::size_t i = 0; i < kAgeBandCount; ++i) seen += bands[i].buys / overlap, said += as_all(i);
  Excess excess{};
  for (std::size_t i = 0; i < kAgeBandCount; ++i) {
    if (bands[i].cases == 0) continue;
    const double before = as_all(i) * seen / said;
    const double buys = (bands[i].buys / overlap + kDrawnInBand) * before / (before + kDrawnInBand);
    excess[i] = excess_where(buys, bands[i], overlap);
  }
  return excess;
}

/// Takes the steps to one product after another. One for each thread.
class StepRefiner {
 public:
  StepRefiner(const OfferBase& base, const ProductBuyers& buyers)
      : base_(base),
        buyers_(buyers),
        slots_(base.histories.counts.size(), kNoSlot),
        by_group_(base.groups.count),
        seen_(base.groups.count) {}

  /// The surest first.
  void refine(std::uint32_t later, std::span<FoundStep*> steps) {
    later_ = later;
    for (std::size_t slot = 0; slot < steps.size(); ++slot)
      slots_[steps[slot]->earlier] = static_cast<std::uint8_t>(slot);
    for (slot_ = 0; slot_ < steps.size(); ++slot_) {
      bands_ = {};
      std::fill(by_group_.begin(), by_group_.end(), Bands{});
      std::fill(seen_.begin(), seen_.end(), std::array<Seen, kAgeBandCount>{});
      walk_buyers(base_.histories, buyers_.of(steps[slot_]->earlier),
                  [&](std::uint32_t customer) { follow(customer, steps[slot_]->earlier == later); });
      settle(*steps[slot_]);
    }
    for (const FoundStep* step : steps) slots_[step->earlier] = kNoSlot;
  }

 private:
  /// What the step adds, by group: each group drawn to all.
  void settle(FoundStep& step) {
    constexpr double kNoChance = 0.05;
    const double overlap = base_.lookback.overlap;
    excess_[slot_].assign(by_group_.size(), Excess{});
    if (chance_of_stretches(bands_, overlap) < kNoChance) {
      const Excess of_all = excess_of(bands_, overlap);
      for (std::size_t group = 0; group < by_group_.size(); ++group)
        excess_[slot_][group] = excess_of_group(by_group_[group], of_all, overlap);
    }
    for (FoundCell& cell : step.cells) {
      for (std::size_t group = 0; group < seen_.size(); ++group)
        cell.groups.push_back({seen_[group][cell.band], excess_[slot_][group][cell.band]});
    }
  }

  void follow(std::uint32_t customer, bool is_again) {
    const auto history = base_.histories.of(customer);
    const std::uint32_t group = base_.groups.group_of(customer), shelf = base_.shelves.of_product[later_];
    const double share = base_.shares.of_product(group, later_);
    std::array<std::int32_t, kMostSteps> last;
    last.fill(kNever);
    bool is_bought = false;
    std::uint32_t read = 0, of_shelf = 0, bands_before = 0;
    walk_cases(history, base_.lookback, base_.lookback.days, [&](const CustomerCase& now) {
      for (; read < now.known; ++read) {
        const std::uint32_t code = history[read].code;
        of_shelf += base_.shelves.of_product[code] == shelf ? 1U : 0U;
        is_bought = is_bought || code == later_;
        if (slots_[code] != kNoSlot) last[slots_[code]] = history[read].day;
      }
      if (last[slot_] == kNever || (is_bought && !is_again)) return;
      const double items = base_.items.at(customer, now.landmark) *
                           base_.shares.of_shelf(group, shelf, of_shelf, now.known) * share;
      double none = 1 - chance_of_any(items, base_.items.dispersion());
      for (std::size_t surer = 0; surer < slot_; ++surer)
        if (last[surer] != kNever) none *= 1 - excess_[surer][group][age_band(now.day - last[surer])];
      const auto begin = history.begin() + now.known, end = history.begin() + now.seen;
      const bool buys =
          std::any_of(begin, end, [&](const HistoryEntry& entry) { return entry.code == later_; });
      const std::size_t at = age_band(now.day - last[slot_]);
      for (BandCount* band : {&bands_[at], &by_group_[group][at]}) {
        band->cases += 1;
        band->expected += 1 - none;
        band->buys += buys ? 1 : 0;
      }
      Seen& seen = seen_[group][at];
      ++seen.cases;
      seen.buys += buys ? 1U : 0U;
      seen.customers += (bands_before >> at & 1U) == 0 ? 1U : 0U;
      bands_before |= 1U << at;
    });
  }

  const OfferBase& base_;
  const ProductBuyers& buyers_;
  std::vector<std::uint8_t> slots_;  ///< by product its place among the steps
  std::uint32_t later_ = 0;
  std::size_t slot_ = 0;
  Bands bands_{};
  std::vector<Bands> by_group_;
  std::vector<std::array<Seen, kAgeBandCount>> seen_;   ///< by group
  std::array<std::vector<Excess>, kMostSteps> excess_;  ///< by step, then group
};

}  // namespace

void refine_steps(const OfferBase& base, const ProductBuyers& buyers, std::vector<FoundStep>& steps) {
  std::vector<std::vector<FoundStep*>> by_later(base.histories.counts.size());
  for (FoundStep& step : steps) by_later[step.later].push_back(&step);
  tbb::enumerable_thread_specific<StepRefiner> refiners([&] { return StepRefiner(base, buyers); });
  for_each_product(by_later.size(), [&](std::size_t later) {
    auto& own = by_later[later];
    std::stable_sort(own.begin(), own.end(), [&](const FoundStep* a, const FoundStep* b) {
      return surely_more(*a, base.lookback.overlap) > surely_more(*b, base.lookback.overlap);
    });
    const std::size_t refined = std::min(own.size(), kMostSteps);
    refiners.local().refine(static_cast<std::uint32_t>(later), std::span(own).first(refined));
  });
}

}  // namespace pear
