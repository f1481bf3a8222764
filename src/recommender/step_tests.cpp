// Every pair of products tested for more purchases than there would have been anyway.
#include "recommender/step_tests.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include <tbb/parallel_for.h>

#include "recommender/parallel_counting.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::recommender {
namespace {

constexpr std::uint64_t kFewestPurchases = 3;  ///< purchases that can be no chance
constexpr double kLeastMore = 0.02;            ///< that a step surely adds where it adds most

/// Each pair is tested over the time since the earlier purchase up to the beginning of these bands, and over
/// all of it: what follows soon is not to drown in years.
constexpr std::array<std::int32_t, 4> kStretches = {30, 60, 120, INT32_MAX};

/// What one case more adds to the pairs of an earlier product and a band.
struct PairCount {
  std::uint32_t buys = 0, had_cases = 0;  ///< had: those who had it before
  ProbabilitySum had_expected;

  void add(const PairCount& other) {
    buys += other.buys, had_cases += other.had_cases, had_expected.add(other.had_expected);
  }
};

/// Items of a shelf expected of the cases of a group, and their squares: added up as whole numbers.
struct ShelfSum {
  std::int64_t first = 0, second = 0;
  static constexpr double kFirst = 1e9, kSecond = 1e6;

  void add(double expected) {
    first += static_cast<std::int64_t>(expected * kFirst);
    second += static_cast<std::int64_t>(expected * expected * kSecond);
  }
  void add(const ShelfSum& other) { first += other.first, second += other.second; }
  [[nodiscard]] double items() const { return static_cast<double>(first) / kFirst; }
  [[nodiscard]] double squares() const { return static_cast<double>(second) / kSecond; }
};

/// Counts the pairs of the products of a block with all others, of one customer after another. One for each
/// thread.
class PairCounter {
 public:
  PairCounter(const Baseline& base, const ProductBlock& block)
      : base_(base),
        block_(block),
        products_(base.histories.counts.size()),
        cases_(block.size() * kRecencyBandCount),
        counts_(cases_.size() * products_),
        sums_(cases_.size() * base.groups.count * base.shelves.count),
        last_days_(products_, kNever),
        shelf_counts_(base.shelves.count),
        shelf_items_(base.shelves.count) {}

  /// What each block takes, in bytes for each of its products.
  static std::size_t bytes(const Baseline& base) {
    return kRecencyBandCount * (base.histories.counts.size() * sizeof(PairCount) +
                                base.groups.count * base.shelves.count * sizeof(ShelfSum));
  }

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    std::fill(shelf_counts_.begin(), shelf_counts_.end(), 0);
    std::uint32_t read = 0;
    for_each_landmark(history, base_.lookback, base_.lookback.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read) take(history[read]);
      if (own_.empty()) return;
      expect(customer, now);
      bought_.clear(), again_.clear();
      for (const mining::HistoryEntry& entry : history.subspan(now.known, now.seen - now.known)) {
        if (entry.is_first != 0) bought_.push_back(entry.code);
        if (block_.holds(entry.code)) again_.push_back(entry.code);
      }
      for (const std::uint32_t earlier : own_) count(earlier, base_.groups.group_of(customer), now.day);
    });
    for (const std::uint32_t product : had_) last_days_[product] = kNever;
    had_.clear(), own_.clear();
  }

  void add(const PairCounter& other) {
    for (std::size_t i = 0; i < cases_.size(); ++i) cases_[i] += other.cases_[i];
    for (std::size_t i = 0; i < counts_.size(); ++i) counts_[i].add(other.counts_[i]);
    for (std::size_t i = 0; i < sums_.size(); ++i) sums_[i].add(other.sums_[i]);
  }

  /// The pairs of which a test may be passed.
  [[nodiscard]] std::vector<Step> found(std::uint32_t earlier) const {
    std::vector<Step> found;
    for (std::uint32_t later = 0; later < products_; ++later) test(earlier, later, found);
    return found;
  }

 private:
  void take(const mining::HistoryEntry& entry) {
    ++shelf_counts_[base_.shelves.of_product[entry.code]];
    if (last_days_[entry.code] == kNever) {
      had_.push_back(entry.code);
      if (block_.holds(entry.code)) own_.push_back(entry.code);
    }
    last_days_[entry.code] = entry.day;
  }

  /// Of each shelf, and of each product that the customer had before.
  void expect(std::uint32_t customer, const CustomerState& now) {
    const std::uint32_t group = base_.groups.group_of(customer);
    const double items = base_.items.at(customer, now.landmark);
    base_.shares.of_shelves(group, shelf_counts_, now.known, shelf_items_);
    for (double& expected : shelf_items_) expected *= items;
    had_chances_.clear();
    for (const std::uint32_t had : had_) {
      had_chances_.emplace_back();
      had_chances_.back().add(probability_of_any(
          shelf_items_[base_.shelves.of_product[had]] * base_.shares.of_product(group, had),
          base_.items.dispersion()));
    }
  }

  void count(std::uint32_t earlier, std::uint32_t group, std::int32_t day) {
    const std::size_t place = place_of(earlier, recency_band(day - last_days_[earlier]));
    ++cases_[place];
    ShelfSum* sums = &sums_[(place * base_.groups.count + group) * base_.shelves.count];
    for (std::size_t shelf = 0; shelf < shelf_items_.size(); ++shelf) sums[shelf].add(shelf_items_[shelf]);
    PairCount* counts = &counts_[place * products_];
    for (std::size_t i = 0; i < had_.size(); ++i) {
      if (had_[i] == earlier) continue;
      ++counts[had_[i]].had_cases;
      counts[had_[i]].had_expected.add(had_chances_[i]);
    }
    for (const std::uint32_t later : bought_) ++counts[later].buys;
    if (std::find(again_.begin(), again_.end(), earlier) != again_.end()) ++counts[earlier].buys;
  }

  [[nodiscard]] std::size_t place_of(std::uint32_t earlier, std::size_t band) const {
    return (earlier - block_.begin) * kRecencyBandCount + band;
  }

  /// The chances of all cases of a band added up, those of a group and shelf as if they were alike.
  [[nodiscard]] double expected(std::size_t place, std::uint32_t later) const {
    double all = 0;
    for (std::uint32_t group = 0; group < base_.groups.count; ++group) {
      const ShelfSum& sum =
          sums_[(place * base_.groups.count + group) * base_.shelves.count + base_.shelves.of_product[later]];
      if (sum.first <= 0) continue;
      const double share = base_.shares.of_product(group, later),
                   typical = std::max(sum.squares() / sum.items() * share, 1e-9);
      all += sum.items() * share / typical * probability_of_any(typical, base_.items.dispersion());
    }
    return std::max(all - counts_[place * products_ + later].had_expected.value(), 1e-9);
  }

  void test(std::uint32_t earlier, std::uint32_t later, std::vector<Step>& found) const {
    constexpr double kMayPass = 0.01;
    std::uint32_t buys = 0;
    for (std::size_t band = 0; band < kRecencyBandCount; ++band)
      buys += counts_[place_of(earlier, band) * products_ + later].buys;
    if (buys < kFewestPurchases * base_.lookback.overlap) return;
    std::array<BandCount, kRecencyBandCount> bands{};
    for (std::size_t band = 0; band < kRecencyBandCount; ++band) {
      const std::size_t place = place_of(earlier, band);
      const PairCount& count = counts_[place * products_ + later];
      if (cases_[place] == count.had_cases) continue;
      bands[band] = {static_cast<double>(count.buys), static_cast<double>(cases_[place] - count.had_cases),
                     expected(place, later)};
    }
    const double p = most_significant_window(bands, base_.lookback.overlap).p;
    if (p < kMayPass)
      found.push_back({earlier, later, p, uplift_lower_bound(bands, base_.lookback.overlap), {}});
  }

  const Baseline& base_;
  const ProductBlock& block_;
  std::size_t products_;
  std::vector<std::uint32_t> cases_;           ///< by earlier product of the block, then band: its place
  std::vector<PairCount> counts_;              ///< by place, then later product
  std::vector<ShelfSum> sums_;                 ///< by place, then group and shelf
  std::vector<std::int32_t> last_days_;        ///< by product
  std::vector<std::uint32_t> had_, own_;       ///< what the customer has; of this, what the block holds
  std::vector<ProbabilitySum> had_chances_;    ///< by place in had_
  std::vector<std::uint32_t> bought_, again_;  ///< in the horizon: for the first time; of the block
  std::vector<std::uint32_t> shelf_counts_;
  std::vector<double> shelf_items_;
};

/// All pairs of which a test may be passed, by earlier product.
std::vector<std::vector<Step>> count_pairs(const Baseline& base) {
  std::vector<std::vector<Step>> tested(base.histories.counts.size());
  for (const ProductBlock& block : blocks_of(base.histories, PairCounter::bytes(base))) {
    tbb::enumerable_thread_specific<PairCounter> counters([&] { return PairCounter(base, block); });
    look_at_these(base.histories, block.customers, counters);
    const PairCounter& all = added_up(counters);
    tbb::parallel_for(block.begin, block.end,
                      [&](std::uint32_t earlier) { tested[earlier] = all.found(earlier); });
  }
  return tested;
}

/// The q values of all pairs, in their order: of each kind for itself.
std::vector<double> tested_by_kind(const std::vector<std::vector<Step>>& tested, const ScreenedPairs& links) {
  std::array<std::vector<double>, kPairKinds> chances;
  std::vector<std::size_t> kinds;
  for (const auto& pairs : tested)
    for (const Step& pair : pairs) {
      kinds.push_back(static_cast<std::size_t>(links.kind(pair.earlier, pair.later)));
      chances[kinds.back()].push_back(pair.p);
    }
  std::array<std::vector<double>, kPairKinds> q;
  for (std::size_t kind = 0; kind < kPairKinds; ++kind)
    q[kind] = statistics::q_values(chances[kind], links.pairs(static_cast<PairKind>(kind)));
  std::array<std::size_t, kPairKinds> next{};
  std::vector<double> all;
  for (const std::size_t kind : kinds) all.push_back(q[kind][next[kind]++]);
  return all;
}

}  // namespace

double uplift_lower_bound(std::span<const BandCount> bands, double overlap) {
  double most = 0;
  BandCount sum;
  for (const BandCount& band : bands) {
    sum.buys += band.buys, sum.cases += band.cases, sum.expected += band.expected;
    const auto cases = static_cast<std::uint64_t>(sum.cases / overlap);
    const auto buys = std::min(cases, static_cast<std::uint64_t>(sum.buys / overlap));
    if (cases > 0)
      most = std::max(most, statistics::wilson_interval(buys, cases).low - sum.expected / sum.cases);
  }
  return most;
}

RecencyWindow most_significant_window(std::span<const BandCount> bands, double overlap) {
  RecencyWindow surest{1, bands.size()};
  BandCount sum;
  std::size_t stretch = 0;
  const auto end_stretch = [&](std::size_t end) {
    ++stretch;
    const auto part = static_cast<std::uint64_t>(sum.buys / overlap),
               whole = static_cast<std::uint64_t>(sum.cases / overlap);
    if (sum.buys <= sum.expected || part < kFewestPurchases || part > whole) return;
    const double p = kStretches.size() * statistics::probability_of_at_least(
                                             part, whole, std::min(1.0, sum.expected / sum.cases));
    if (p < surest.p) surest = {p, end};
  };
  for (std::size_t band = 0; band < bands.size(); ++band) {
    if (kRecencyBands[band] == kStretches[stretch]) end_stretch(band);
    sum.buys += bands[band].buys, sum.cases += bands[band].cases, sum.expected += bands[band].expected;
  }
  end_stretch(bands.size());
  return surest;
}

std::vector<Step> find_steps(const Baseline& base, const ScreenedPairs& links) {
  std::vector<std::vector<Step>> tested = count_pairs(base);
  const std::vector<double> q = tested_by_kind(tested, links);
  std::vector<Step> found;
  std::size_t next = 0;
  for (auto& steps : tested)
    for (Step& step : steps)
      if (q[next++] <= statistics::kFalseDiscovery && step.surely_more >= kLeastMore)
        found.push_back(std::move(step));
  return found;
}

}  // namespace pear::recommender
