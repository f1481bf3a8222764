#include "recommender/purchase_model.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "recommender/parallel_counting.hpp"
#include "statistics/quantile.hpp"

namespace pear::recommender {
namespace {

/// Days between the purchases of pairs, of one customer after another. One for each thread.
class Timer {
 public:
  Timer(const mining::Histories& histories, const std::vector<StepTimes>& pairs)
      : histories_(histories),
        pairs_(pairs),
        to_(histories.counts.size()),
        last_days_(histories.counts.size(), kNever),
        days_(pairs.size()),
        together_(pairs.size()) {
    for (std::uint32_t pair = 0; pair < pairs.size(); ++pair) to_[pairs[pair].later].push_back(pair);
  }

  void look_at(std::uint32_t customer) {
    const auto history = histories_.of(customer);
    for (std::size_t begin = 0, end = 0; begin < history.size(); begin = end) {
      while (end < history.size() && history[end].order == history[begin].order) ++end;
      const auto order = history.subspan(begin, end - begin);
      for (const mining::HistoryEntry& entry : order) take(entry, order);
      for (const mining::HistoryEntry& entry : order) last_days_[entry.code] = entry.day;
    }
    for (const mining::HistoryEntry& entry : history) last_days_[entry.code] = kNever;
  }

  void add(const Timer& other) {
    for (std::size_t pair = 0; pair < pairs_.size(); ++pair) {
      days_[pair].insert(days_[pair].end(), other.days_[pair].begin(), other.days_[pair].end());
      together_[pair] += other.together_[pair];
    }
  }

  void tell(std::size_t pair, StepTimes& times) {
    if (days_[pair].empty()) return;
    times.purchases = static_cast<std::uint32_t>(days_[pair].size());
    times.together = together_[pair];
    times.days_p25 = *statistics::quantile_of(days_[pair], statistics::kQuarter);
    times.days_median = *statistics::quantile_of(days_[pair], statistics::kHalf);
    times.days_p75 = *statistics::quantile_of(days_[pair], statistics::kThreeQuarters);
  }

 private:
  void take(const mining::HistoryEntry& entry, std::span<const mining::HistoryEntry> order) {
    constexpr std::int32_t kYear = 365;
    for (const std::uint32_t pair : to_[entry.code]) {
      const std::uint32_t earlier = pairs_[pair].earlier;
      const std::int32_t last = last_days_[earlier];
      if (last == kNever || last >= entry.day || entry.day - last > kYear) continue;
      if (entry.is_first == 0 && entry.code != earlier) continue;
      days_[pair].push_back(entry.day - last);
      if (entry.code != earlier &&
          std::any_of(order.begin(), order.end(),
                      [&](const mining::HistoryEntry& other) { return other.code == earlier; }))
        ++together_[pair];
    }
  }

  const mining::Histories& histories_;
  const std::vector<StepTimes>& pairs_;
  std::vector<std::vector<std::uint32_t>> to_;  ///< by product, the pairs that lead to it
  std::vector<std::int32_t> last_days_;         ///< by product
  std::vector<std::vector<std::int32_t>> days_;
  std::vector<std::uint32_t> together_;
};

void measure(const mining::Histories& histories, std::vector<StepTimes>& pairs) {
  tbb::enumerable_thread_specific<Timer> timers([&] { return Timer(histories, pairs); });
  look_at_all(histories, timers);
  Timer& all = added_up(timers);
  tbb::parallel_for(std::size_t{0}, pairs.size(), [&](std::size_t pair) { all.tell(pair, pairs[pair]); });
}

}  // namespace

StepModel::StepModel(const mining::Histories& histories, const Landmarks& lookback,
                     const analysis::CustomerGroups& groups, const Categories& shelves, OrderRate& items,
                     CategoryShares& shares, const analysis::Progress& progress)
    : products_(histories.counts.size()), groups_(groups.count) {
  const Baseline base{histories, lookback, groups, shelves, items, shares};
  std::uint64_t parts = 0;
  const auto tell = [&] {
    constexpr std::uint64_t kParts = 6;
    if (progress) progress(++parts, kParts);
  };
  const ScreenedPairs links(histories);
  tell();
  for (std::size_t kind = 0; kind < kPairKinds; ++kind)
    pairs_tested_ += links.pairs(static_cast<PairKind>(kind));
  std::vector<Step> steps = find_steps(base, links);
  tell();
  const TriggeredProducts led_to = triggered_by(steps, products_);
  items.leave_out(histories, lookback, groups, shelves, shares, led_to);
  tell();
  shares.adjust(untriggered_ratios(base, led_to));
  tell();
  fit_uplifts(base, steps);
  tell();
  take(steps);
  measure(histories, times_);
  count_popularity(histories, lookback, groups);
  tell();
}

/// Cells in which a step adds something.
void StepModel::take(const std::vector<Step>& steps) {
  begins_.push_back(0);
  std::size_t next = 0;
  for (std::uint32_t earlier = 0; earlier < products_; ++earlier) {
    std::array<std::vector<std::pair<std::uint32_t, const FittedCell*>>, kStandings> standings;
    for (; next < steps.size() && steps[next].earlier == earlier; ++next) {
      bool adds = false;
      for (const FittedCell& cell : steps[next].cells) {
        if (std::none_of(cell.groups.begin(), cell.groups.end(),
                         [](const FittedCell::OfGroup& group) { return group.excess > 0; }))
          continue;
        adds = true;
        standings[cell.standing].emplace_back(steps[next].later, &cell);
      }
      if (adds) times_.push_back({earlier, steps[next].later, 0, 0, 0, 0, 0});
    }
    for (const auto& standing : standings) {
      for (const auto& [later, cell] : standing) {
        cells_.push_back({later, cell->standing, cell->seen});
        of_groups_.insert(of_groups_.end(), cell->groups.begin(), cell->groups.end());
      }
      begins_.push_back(static_cast<std::uint32_t>(cells_.size()));
    }
  }
}

const StepTimes& StepModel::times(std::uint32_t earlier, std::uint32_t later) const {
  return *std::lower_bound(
      times_.begin(), times_.end(), std::pair(earlier, later),
      [](const StepTimes& a, const auto& b) { return std::pair(a.earlier, a.later) < b; });
}

void StepModel::count_popularity(const mining::Histories& histories, const Landmarks& lookback,
                                 const analysis::CustomerGroups& groups) {
  struct Own {
    std::vector<Observed> looked_at;  // by group
    std::vector<Observed> had;        // by group and product: those who had bought it
    std::vector<std::uint32_t> buys;  // by group and product
  };
  const std::size_t size = groups.count * products_;
  tbb::enumerable_thread_specific<Own> owns([&] {
    return Own{std::vector<Observed>(groups.count), std::vector<Observed>(size),
               std::vector<std::uint32_t>(size)};
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
      for_each_landmark(history, lookback, lookback.days, [&](const CustomerState& now) {
        for (; read < now.known; ++read)
          if (history[read].is_first != 0) had.push_back(history[read].code);
        ++own.looked_at[group].cases;
        own.looked_at[group].customers += is_new ? 1U : 0U;
        for (const std::uint32_t code : had) {
          ++own.had[group * products_ + code].cases;
          own.had[group * products_ + code].customers += is_new ? 1U : 0U;
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
        const Observed seen{own.looked_at[group].cases - own.had[place].cases, own.buys[place],
                            own.looked_at[group].customers - own.had[place].customers};
        of_group_[place].add(seen), of_all_[product].add(seen);
      }
}

}  // namespace pear::recommender
