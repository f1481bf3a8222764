// What each step adds to those that are surer.
#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include <tbb/enumerable_thread_specific.h>

#include "question/offer_steps.hpp"

namespace pear {
namespace {

constexpr std::size_t kBands = kAgeBands.size();
constexpr std::size_t kMostSteps = 8;  ///< to one product
constexpr std::uint8_t kNoSlot = 0xFF;
constexpr std::int32_t kNever = INT32_MIN;

using Bands = std::array<BandCount, kBands>;
using Excess = std::array<double, kBands>;

/// By band, of those who would not have bought without the step, the share that does.
Excess excess_of(const Bands& bands, double overlap) {
  constexpr double kDrawn = 3, kLeastDrawn = 0.5;
  double seen = kDrawn, expected = kDrawn;
  for (const BandCount& band : bands) seen += band.buys / overlap, expected += band.expected / overlap;
  const double of_all = seen / expected;
  double beyond = 0, squares = 0;
  for (const BandCount& band : bands) {
    const double usual = band.expected / overlap, off = band.buys / overlap - of_all * usual;
    beyond += off * off - of_all * usual;
    squares += usual * usual;
  }
  const double spread = squares > 0 ? std::max(0.0, beyond / squares) : 0;
  Excess excess{};
  double ratio = of_all;  // of the band before
  for (std::size_t i = 0; i < kBands; ++i) {
    const BandCount& band = bands[i];
    if (band.cases == 0) continue;
    if (spread > 0) {
      const double drawn = std::max(kLeastDrawn, of_all / spread);
      ratio = (band.buys / overlap + ratio * drawn) / (band.expected / overlap + drawn);
    }
    const double without = std::min(band.expected / band.cases, 1 - 1e-9);
    excess[i] = std::max(0.0, (std::min(1.0, ratio * without) - without) / (1 - without));
  }
  return excess;
}

/// By group, how much of what the step adds to all it adds to them, drawn to 1 as if 3 more had followed it.
std::vector<double> factors_of(const std::vector<Bands>& groups, const Excess& excess, double overlap) {
  constexpr double kDrawn = 3;
  std::vector<double> factors;
  for (const Bands& bands : groups) {
    double seen = kDrawn, said = kDrawn;
    for (std::size_t i = 0; i < kBands; ++i) {
      if (excess[i] == 0) continue;
      seen += (bands[i].buys - bands[i].expected) / overlap;
      said += excess[i] * (bands[i].cases - bands[i].expected) / overlap;
    }
    factors.push_back(std::max(0.0, seen / said));
  }
  return factors;
}

/// Takes the steps to one product after another. One for each thread.
class StepRefiner {
 public:
  StepRefiner(const OfferBase& base, const ProductBuyers& buyers)
      : base_(base),
        buyers_(buyers),
        slots_(base.histories.counts.size(), kNoSlot),
        by_group_(base.groups.count) {}

  /// The surest first.
  void refine(std::uint32_t later, std::span<FoundStep*> steps) {
    later_ = later;
    for (std::size_t slot = 0; slot < steps.size(); ++slot)
      slots_[steps[slot]->earlier] = static_cast<std::uint8_t>(slot);
    for (slot_ = 0; slot_ < steps.size(); ++slot_) {
      constexpr double kNoChance = 0.05;
      bands_ = {};
      std::fill(by_group_.begin(), by_group_.end(), Bands{});
      walk_buyers(base_.histories, buyers_.of(steps[slot_]->earlier),
                  [&](std::uint32_t customer) { follow(customer, steps[slot_]->earlier == later); });
      excess_[slot_] = {};
      if (chance_of_stretches(bands_, base_.lookback.overlap) < kNoChance)
        excess_[slot_] = excess_of(bands_, base_.lookback.overlap);
      for (FoundCell& cell : steps[slot_]->cells) cell.excess = excess_[slot_][cell.band];
      factors_[slot_] = factors_of(by_group_, excess_[slot_], base_.lookback.overlap);
      steps[slot_]->by_group = factors_[slot_];
    }
    for (const FoundStep* step : steps) slots_[step->earlier] = kNoSlot;
  }

 private:
  void follow(std::uint32_t customer, bool is_again) {
    const auto history = base_.histories.of(customer);
    const std::uint32_t group = base_.groups.group_of(customer), shelf = base_.shelves.of_product[later_];
    const double share = base_.shares.of_product(group, later_);
    std::array<std::int32_t, kMostSteps> last;
    last.fill(kNever);
    bool is_bought = false;
    std::uint32_t read = 0, of_shelf = 0;
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
        if (last[surer] != kNever)
          none *= 1 - std::min(1.0, factors_[surer][group] * excess_[surer][age_band(now.day - last[surer])]);
      const auto begin = history.begin() + now.known, end = history.begin() + now.seen;
      const bool buys =
          std::any_of(begin, end, [&](const HistoryEntry& entry) { return entry.code == later_; });
      const std::size_t at = age_band(now.day - last[slot_]);
      for (BandCount* band : {&bands_[at], &by_group_[group][at]}) {
        band->cases += 1;
        band->expected += 1 - none;
        band->buys += buys ? 1 : 0;
      }
    });
  }

  const OfferBase& base_;
  const ProductBuyers& buyers_;
  std::vector<std::uint8_t> slots_;  ///< by product its place among the steps
  std::uint32_t later_ = 0;
  std::size_t slot_ = 0;
  Bands bands_{};
  std::vector<Bands> by_group_;
  std::array<Excess, kMostSteps> excess_{};
  std::array<std::vector<double>, kMostSteps> factors_;  ///< by step, then group
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
