#include "question/offer_evidence.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "question/offer_links.hpp"
#include "statistics/evidence.hpp"
#include "statistics/quantile.hpp"

namespace pear {
namespace {

constexpr std::size_t kBands = kAgeBands.size();
constexpr std::int32_t kNever = INT32_MIN;

/// Each pair is tested over the time since the earlier purchase up to the beginning of these bands, and over
/// all of it: what follows soon is not to drown in years.
constexpr std::array<std::int32_t, 4> kStretches = {30, 60, 120, INT32_MAX};

/// What was seen and expected of a pair in one band.
struct CountedCell {
  std::uint8_t band = 0;
  Seen seen;
  double expected = 0;
};
struct TestedPair {
  std::uint32_t earlier = 0, later = 0;
  double seen = 0, expected = 0;  ///< over all bands; purchases count once
  double p = 1;                   ///< of the stretch that is the surest, by the number of stretches
  std::vector<CountedCell> cells;
};

struct Model {
  const Histories& histories;
  const Lookback& lookback;
  const CustomerGroups& groups;
  const Shelves& shelves;
  const ExpectedItems& items;
  const Shares& shares;
};

/// Follows the buyers of one product after another. One for each thread.
class StepCounter {
 public:
  explicit StepCounter(const Model& model)
      : model_(model),
        products_(model.histories.counts.size()),
        counts_(kBands * products_),
        sums_(model.groups.count * kBands * model.shelves.count),
        shelf_counts_(model.shelves.count),
        shelf_shares_(model.shelves.count) {}

  /// The pairs of which a test may be passed.
  std::vector<TestedPair> count(std::uint32_t earlier, std::span<const std::uint32_t> buyers) {
    std::fill(counts_.begin(), counts_.end(), Count{});
    std::fill(sums_.begin(), sums_.end(), Sum{});
    cases_ = {}, customers_ = {};
    walk_buyers(model_.histories, buyers, [&](std::uint32_t customer) { follow(earlier, customer); });
    std::vector<TestedPair> found;
    for (std::uint32_t later = 0; later < products_; ++later) test(earlier, later, found);
    return found;
  }

 private:
  struct Count {
    std::uint32_t buys = 0, had_cases = 0, had_customers = 0;  ///< had: those who had it before
    double had_expected = 0;
  };
  struct Sum {
    double first = 0, second = 0;  ///< of the expected items of a shelf, and of their squares
  };

  void follow(std::uint32_t earlier, std::uint32_t customer) {
    const auto history = model_.histories.of(customer);
    const std::uint32_t group = model_.groups.group_of(customer);
    std::fill(shelf_counts_.begin(), shelf_counts_.end(), 0);
    had_.clear();
    std::uint32_t read = 0, bands_before = 0;
    std::int32_t last = kNever;
    walk_cases(history, model_.lookback, model_.lookback.days, [&](const CustomerCase& now) {
      for (; read < now.known; ++read) {
        ++shelf_counts_[model_.shelves.of_product[history[read].code]];
        if (history[read].code == earlier)
          last = history[read].day;
        else if (history[read].is_first != 0)
          had_.push_back(history[read].code);
      }
      if (last == kNever) return;
      const std::size_t band = age_band(now.day - last);
      const bool is_new = (bands_before >> band & 1U) == 0;
      bands_before |= 1U << band;
      add_case(now, customer, group, band, is_new);
      Count* counts = &counts_[band * products_];
      bool again = false;
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry) {
        again = again || history[entry].code == earlier;
        if (history[entry].is_first != 0) ++counts[history[entry].code].buys;
      }
      if (again) ++counts[earlier].buys;
    });
  }

  void add_case(const CustomerCase& now, std::uint32_t customer, std::uint32_t group, std::size_t band,
                bool is_new) {
    ++cases_[band];
    customers_[band] += is_new ? 1 : 0;
    const double items = model_.items.at(customer, now.landmark);
    model_.shares.of_shelves(group, shelf_counts_, now.known, shelf_shares_);
    Sum* sums = &sums_[(group * kBands + band) * model_.shelves.count];
    for (std::size_t shelf = 0; shelf < shelf_shares_.size(); ++shelf) {
      const double expected = items * shelf_shares_[shelf];
      sums[shelf].first += expected;
      sums[shelf].second += expected * expected;
    }
    for (const std::uint32_t had : had_) {
      Count& count = counts_[band * products_ + had];
      ++count.had_cases;
      count.had_customers += is_new ? 1 : 0;
      count.had_expected += chance_of_any(
          items * shelf_shares_[model_.shelves.of_product[had]] * model_.shares.of_product(group, had),
          model_.items.dispersion());
    }
  }

  /// The chances of all cases of a band added up, those of a group and shelf as if they were alike.
  [[nodiscard]] double expected(std::size_t band, std::uint32_t later) const {
    double all = 0;
    for (std::uint32_t group = 0; group < model_.groups.count; ++group) {
      const Sum& sum =
          sums_[(group * kBands + band) * model_.shelves.count + model_.shelves.of_product[later]];
      if (sum.first <= 0) continue;
      const double share = model_.shares.of_product(group, later), typical = sum.second / sum.first * share;
      all += sum.first * share / typical * chance_of_any(typical, model_.items.dispersion());
    }
    return std::max(all - counts_[band * products_ + later].had_expected, 1e-9);
  }

  /// The chance of so many purchases or more; purchases and cases that several landmarks see count once.
  [[nodiscard]] double chance(double seen, double cases, double usual) const {
    const double overlap = model_.lookback.overlap;
    const auto part = static_cast<std::uint64_t>(seen / overlap),
               whole = static_cast<std::uint64_t>(cases / overlap);
    if (seen <= usual || part < kFewest || part > whole) return 1;
    return chance_of_at_least(part, whole, std::min(1.0, usual / cases));
  }

  void test(std::uint32_t earlier, std::uint32_t later, std::vector<TestedPair>& found) const {
    constexpr double kMayPass = 0.01;
    const double overlap = model_.lookback.overlap;
    std::uint32_t buys = 0;
    for (std::size_t band = 0; band < kBands; ++band) buys += counts_[band * products_ + later].buys;
    if (buys < kFewest * overlap) return;
    TestedPair pair{earlier, later, 0, 0, 1, {}};
    double seen = 0, cases = 0, usual = 0;
    std::size_t stretch = 0;
    const auto end_stretch = [&] {
      pair.p = std::min(pair.p, chance(seen, cases, usual) * kStretches.size());
      ++stretch;
    };
    for (std::size_t band = 0; band < kBands; ++band) {
      if (kAgeBands[band] == kStretches[stretch]) end_stretch();
      const Count& count = counts_[band * products_ + later];
      const Seen own{cases_[band] - count.had_cases, count.buys, customers_[band] - count.had_customers};
      if (own.cases == 0) continue;
      pair.cells.push_back({static_cast<std::uint8_t>(band), own, expected(band, later)});
      seen += own.buys, cases += own.cases, usual += pair.cells.back().expected;
    }
    end_stretch();
    pair.seen = seen / overlap, pair.expected = usual / overlap;
    if (pair.p < kMayPass) found.push_back(std::move(pair));
  }

  static constexpr std::uint64_t kFewest = 3;
  const Model& model_;
  std::size_t products_;
  std::vector<Count> counts_;  ///< by band, then product
  std::vector<Sum> sums_;      ///< by group, band and shelf
  std::array<std::uint32_t, kBands> cases_{}, customers_{};
  std::vector<std::uint32_t> shelf_counts_, had_;
  std::vector<double> shelf_shares_;
};

/// The cells of a pair that was found, with more purchases than would have been anyway.
void add_cells(const TestedPair& pair, double overlap, std::array<std::vector<StepCell>, kBands>& bands) {
  constexpr double kDrawn = 3;
  const double of_pair = (pair.seen + kDrawn) / (pair.expected + kDrawn);
  for (const CountedCell& cell : pair.cells) {
    const double usual = cell.expected / overlap;
    const double ratio = (cell.seen.buys / overlap + kDrawn * of_pair) / (usual + kDrawn);
    const double anyway = cell.expected / cell.seen.cases;
    const double excess = (std::min(1.0, ratio * anyway) - anyway) / (1 - anyway);
    if (excess > 0) bands[cell.band].push_back({pair.later, cell.band, cell.seen, excess});
  }
}

/// The q values of all pairs, in their order: of each kind for itself.
std::vector<double> tested_by_kind(const std::vector<std::vector<TestedPair>>& tested, const OfferLinks& links) {
  std::array<std::vector<double>, kLinkKinds> chances;
  std::vector<std::size_t> kinds;
  for (const auto& pairs : tested)
    for (const TestedPair& pair : pairs) {
      kinds.push_back(static_cast<std::size_t>(links.kind(pair.earlier, pair.later)));
      chances[kinds.back()].push_back(pair.p);
    }
  std::array<std::vector<double>, kLinkKinds> q;
  for (std::size_t kind = 0; kind < kLinkKinds; ++kind)
    q[kind] = q_values(chances[kind], links.pairs(static_cast<LinkKind>(kind)));
  std::array<std::size_t, kLinkKinds> next{};
  std::vector<double> all;
  for (const std::size_t kind : kinds) all.push_back(q[kind][next[kind]++]);
  return all;
}

/// Days between purchases of the pairs that follow one product.
class Timer {
 public:
  Timer(const Histories& histories, std::uint32_t earlier, std::span<StepTimes> pairs)
      : histories_(histories), earlier_(earlier), pairs_(pairs), days_(pairs.size()) {}

  void measure(std::span<const std::uint32_t> buyers) {
    walk_buyers(histories_, buyers, [&](std::uint32_t customer) { follow(histories_.of(customer)); });
    for (std::size_t i = 0; i < pairs_.size(); ++i) {
      if (days_[i].empty()) continue;
      pairs_[i].purchases = static_cast<std::uint32_t>(days_[i].size());
      pairs_[i].days_p25 = *quantile_of(days_[i], kQuarter);
      pairs_[i].days_median = *quantile_of(days_[i], kHalf);
      pairs_[i].days_p75 = *quantile_of(days_[i], kThreeQuarters);
    }
  }

 private:
  void follow(std::span<const HistoryEntry> history) {
    constexpr std::int32_t kYear = 365;
    std::int32_t last = kNever;
    for (std::size_t begin = 0; begin < history.size();) {
      std::size_t end = begin;
      bool holds_earlier = false;
      for (; end < history.size() && history[end].order == history[begin].order; ++end)
        holds_earlier = holds_earlier || history[end].code == earlier_;
      const std::int32_t day = history[begin].day;
      for (std::size_t entry = begin; entry < end && last != kNever && last < day; ++entry) {
        const std::uint32_t code = history[entry].code;
        if (day - last > kYear || (history[entry].is_first == 0 && code != earlier_)) continue;
        const auto pair = std::lower_bound(pairs_.begin(), pairs_.end(), code,
                                           [](const StepTimes& a, std::uint32_t b) { return a.later < b; });
        if (pair == pairs_.end() || pair->later != code) continue;
        days_[static_cast<std::size_t>(pair - pairs_.begin())].push_back(day - last);
        if (holds_earlier && code != earlier_) ++pair->together;
      }
      if (holds_earlier) last = day;
      begin = end;
    }
  }

  const Histories& histories_;
  std::uint32_t earlier_;
  std::span<StepTimes> pairs_;
  std::vector<std::vector<std::int32_t>> days_;
};

}  // namespace

OfferEvidence::OfferEvidence(const Histories& histories, const Lookback& lookback,
                             const CustomerGroups& groups, const Shelves& shelves, const ExpectedItems& items,
                             const Shares& shares)
    : products_(histories.counts.size()) {
  const Model model{histories, lookback, groups, shelves, items, shares};
  const ProductBuyers buyers(histories);
  const OfferLinks links(histories, buyers);
  std::vector<std::vector<TestedPair>> tested(products_);
  tbb::enumerable_thread_specific<StepCounter> counters([&] { return StepCounter(model); });
  for_each_product(products_, [&](std::size_t earlier) {
    const auto code = static_cast<std::uint32_t>(earlier);
    tested[earlier] = counters.local().count(code, buyers.of(code));
  });
  const std::vector<double> q = tested_by_kind(tested, links);
  for (std::size_t kind = 0; kind < kLinkKinds; ++kind)
    pairs_tested_ += links.pairs(static_cast<LinkKind>(kind));
  begins_.push_back(0);
  std::size_t next = 0;
  for (std::size_t earlier = 0; earlier < products_; ++earlier) {
    std::array<std::vector<StepCell>, kBands> bands;
    for (const TestedPair& pair : tested[earlier]) {
      if (q[next++] > kFalseDiscovery) continue;
      add_cells(pair, lookback.overlap, bands);
      times_.push_back({pair.earlier, pair.later, 0, 0, 0, 0, 0});
    }
    for (const auto& band : bands) {
      cells_.insert(cells_.end(), band.begin(), band.end());
      begins_.push_back(static_cast<std::uint32_t>(cells_.size()));
    }
  }
  for_each_product(products_, [&](std::size_t earlier) {
    const auto own = std::equal_range(
        times_.begin(), times_.end(), StepTimes{static_cast<std::uint32_t>(earlier), 0, 0, 0, 0, 0, 0},
        [](const StepTimes& a, const StepTimes& b) { return a.earlier < b.earlier; });
    if (own.first == own.second) return;
    Timer(histories, static_cast<std::uint32_t>(earlier), {own.first, own.second})
        .measure(buyers.of(static_cast<std::uint32_t>(earlier)));
  });
  count_popularity(histories, lookback, groups);
}

const StepTimes& OfferEvidence::times(std::uint32_t earlier, std::uint32_t later) const {
  return *std::lower_bound(times_.begin(), times_.end(), std::pair(earlier, later),
                           [](const StepTimes& a, const auto& b) {
                             return std::pair(a.earlier, a.later) < b;
                           });
}

void OfferEvidence::count_popularity(const Histories& histories, const Lookback& lookback,
                                     const CustomerGroups& groups) {
  struct Own {
    std::vector<Seen> looked_at;      // by group
    std::vector<Seen> had;            // by group and product: those who had bought it
    std::vector<std::uint32_t> buys;  // by group and product
  };
  const std::size_t size = groups.count * products_;
  tbb::enumerable_thread_specific<Own> owns([&] {
    return Own{std::vector<Seen>(groups.count), std::vector<Seen>(size), std::vector<std::uint32_t>(size)};
  });
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, histories.customers(), 4096), [&](const auto& run) {
    Own& own = owns.local();
    std::vector<std::uint32_t> had;
    for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer) {
      const auto history = histories.of(customer);
      const std::uint32_t group = groups.group_of(customer);
      had.clear();
      std::uint32_t read = 0;
      bool is_new = true;
      walk_cases(history, lookback, lookback.days, [&](const CustomerCase& now) {
        for (; read < now.known; ++read)
          if (history[read].is_first != 0) had.push_back(history[read].code);
        ++own.looked_at[group].cases;
        own.looked_at[group].customers += is_new ? 1 : 0;
        for (const std::uint32_t code : had) {
          ++own.had[group * products_ + code].cases;
          own.had[group * products_ + code].customers += is_new ? 1 : 0;
        }
        for (std::uint32_t entry = now.known; entry < now.seen; ++entry)
          if (history[entry].is_first != 0) ++own.buys[group * products_ + history[entry].code];
        is_new = false;
      });
    }
  });
  of_group_.resize(size);
  of_all_.resize(products_);
  for (const Own& own : owns)
    for (std::size_t group = 0; group < groups.count; ++group)
      for (std::size_t product = 0; product < products_; ++product) {
        const std::size_t place = group * products_ + product;
        const Seen seen{own.looked_at[group].cases - own.had[place].cases, own.buys[place],
                        own.looked_at[group].customers - own.had[place].customers};
        for (Seen* sum : {&of_group_[place], &of_all_[product]})
          sum->cases += seen.cases, sum->buys += seen.buys, sum->customers += seen.customers;
      }
}

}  // namespace pear
