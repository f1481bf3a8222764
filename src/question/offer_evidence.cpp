#include "question/offer_evidence.hpp"

#include <algorithm>
#include <array>
#include <utility>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "statistics/quantile.hpp"

namespace pear {
namespace {

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
                             Shares& shares)
    : products_(histories.counts.size()), groups_(groups.count) {
  const OfferBase base{histories, lookback, groups, shelves, items, shares};
  const ProductBuyers buyers(histories);
  const OfferLinks links(histories, buyers);
  for (std::size_t kind = 0; kind < kLinkKinds; ++kind)
    pairs_tested_ += links.pairs(static_cast<LinkKind>(kind));
  std::vector<FoundStep> steps = find_steps(base, buyers, links);
  shares.adjust(unled_ratios(base, steps));
  refine_steps(base, buyers, steps);
  take(steps);
  for_each_product(products_, [&](std::size_t earlier) {
    const auto code = static_cast<std::uint32_t>(earlier);
    const auto own =
        std::equal_range(times_.begin(), times_.end(), StepTimes{code, 0, 0, 0, 0, 0, 0},
                         [](const StepTimes& a, const StepTimes& b) { return a.earlier < b.earlier; });
    if (own.first != own.second) Timer(histories, code, {own.first, own.second}).measure(buyers.of(code));
  });
  count_popularity(histories, lookback, groups);
}

/// Cells in which a step adds something.
void OfferEvidence::take(const std::vector<FoundStep>& steps) {
  begins_.push_back(0);
  std::size_t next = 0;
  for (std::uint32_t earlier = 0; earlier < products_; ++earlier) {
    std::array<std::vector<std::pair<std::uint32_t, const FoundCell*>>, kAgeBandCount> bands;
    for (; next < steps.size() && steps[next].earlier == earlier; ++next) {
      bool adds = false;
      for (const FoundCell& cell : steps[next].cells) {
        if (std::none_of(cell.groups.begin(), cell.groups.end(),
                         [](const FoundCell::OfGroup& group) { return group.excess > 0; }))
          continue;
        adds = true;
        bands[cell.band].emplace_back(steps[next].later, &cell);
      }
      if (adds) times_.push_back({earlier, steps[next].later, 0, 0, 0, 0, 0});
    }
    for (const auto& band : bands) {
      for (const auto& [later, cell] : band) {
        cells_.push_back({later, cell->band, cell->seen});
        of_groups_.insert(of_groups_.end(), cell->groups.begin(), cell->groups.end());
      }
      begins_.push_back(static_cast<std::uint32_t>(cells_.size()));
    }
  }
}

const StepTimes& OfferEvidence::times(std::uint32_t earlier, std::uint32_t later) const {
  return *std::lower_bound(
      times_.begin(), times_.end(), std::pair(earlier, later),
      [](const StepTimes& a, const auto& b) { return std::pair(a.earlier, a.later) < b; });
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
        const Seen seen{own.looked_at[group].cases - own.had[place].cases, own.buys[place],
                        own.looked_at[group].customers - own.had[place].customers};
        for (Seen* sum : {&of_group_[place], &of_all_[product]})
          sum->cases += seen.cases, sum->buys += seen.buys, sum->customers += seen.customers;
      }
}

}  // namespace pear
