#include "questions/sequence/transitions.hpp"

#include <algorithm>
#include <iterator>
#include <limits>
#include <utility>

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "questions/sequence/directions.hpp"
#include "questions/sequence/pair_days.hpp"
#include "statistics/quantile.hpp"

namespace pear::sequence {
namespace {

/// One customer's step from one item to another.
struct PairStep {
  std::uint32_t later = 0;
  std::int32_t days = 0;
  std::int32_t followed = 0;  ///< days from the first purchase of `earlier` to the end of the data
};

/// The steps that follow one item. One for each thread.
class Follower {
 public:
  Follower(const mining::Histories& histories, const mining::HistoryIndex& index,
           const mining::SequenceRule& rule, Date data_end)
      : histories_(histories),
        index_(index),
        rule_(rule),
        longest_(rule.longest_gap()),
        data_end_(data_end),
        after_(histories.counts.size()),
        one_way_(histories.counts.size()) {}

  /// All steps from an item, customer by customer.
  void follow(std::uint32_t earlier) {
    for (const std::uint32_t code : one_way_codes_) one_way_[code] = 0;
    one_way_codes_.clear();
    steps_.clear();
    followed_.clear();
    const auto places = index_.of(earlier);
    for (std::size_t begin = 0; begin < places.size();) {
      mining::fetch_ahead(histories_.entries, places, begin);
      std::size_t end = begin + 1;
      while (end < places.size() && places[end].end == places[begin].end) ++end;
      follow_customer(places.subspan(begin, end - begin));
      begin = end;
    }
  }

  [[nodiscard]] const std::vector<PairStep>& steps() const { return steps_; }
  /// By customer who bought the item: the days from its first purchase to the end of the data.
  [[nodiscard]] const std::vector<std::int32_t>& followed() const { return followed_; }
  /// How many customers first bought the other item after this one, on another day.
  [[nodiscard]] std::uint32_t one_way(std::uint32_t code) const { return one_way_[code]; }
  /// The items of which there is such a customer.
  [[nodiscard]] const std::vector<std::uint32_t>& one_way_codes() const { return one_way_codes_; }

 private:
  void follow_customer(std::span<const mining::HistoryIndex::Place> own) {
    const auto& entries = histories_.entries;
    const std::uint32_t end = own.front().end, code = entries[own.front().entry].code;
    const std::int32_t followed = data_end_.days - entries[own.front().entry].day;
    followed_.push_back(followed);
    ++visit_;
    for (const mining::HistoryIndex::Place place : own) {
      const std::int32_t day = entries[place.entry].day;
      for (std::uint32_t next = place.entry + 1; next < end; ++next) {
        const mining::HistoryEntry& entry = entries[next];
        if (entry.day - day < rule_.min_gap || after_[entry.code] == visit_) continue;
        if (entry.day - day > longest_) break;
        if (rule_.repeats == mining::Repeats::only && entry.code != code) continue;
        after_[entry.code] = visit_;
        steps_.push_back({entry.code, entry.day - day, followed});
      }
    }
    if (rule_.repeats != mining::Repeats::only) go_one_way(entries[own.front().entry], end);
  }

  /// Items of which the customer's first purchase is on a later day.
  void go_one_way(const mining::HistoryEntry& earlier, std::uint32_t end) {
    for (std::uint32_t next = end; next-- > 0;) {
      const mining::HistoryEntry& entry = histories_.entries[next];
      if (entry.day <= earlier.day) return;
      if (entry.is_first != 0 && one_way_[entry.code]++ == 0) one_way_codes_.push_back(entry.code);
    }
  }

  const mining::Histories& histories_;
  const mining::HistoryIndex& index_;
  const mining::SequenceRule& rule_;
  std::int32_t longest_;
  Date data_end_;
  std::uint32_t visit_ = 0;           ///< one for each customer of each item
  std::vector<std::uint32_t> after_;  ///< by item the last visit at which it was bought afterwards
  std::vector<std::uint32_t> one_way_, one_way_codes_;
  std::vector<PairStep> steps_;
  std::vector<std::int32_t> followed_;
};

/// The curve of customers who took the steps, among those who were followed.
std::vector<statistics::SurvivalDay> curve(std::span<const PairStep> steps, DayCounts ends,
                                           std::size_t customers, std::int32_t last_day) {
  DayCounts events(last_day);
  for (const PairStep& step : steps) {
    events.add(step.days);
    ends.take(step.followed);
  }
  return statistics::kaplan_meier(events.counts(), ends.counts(), customers);
}

/// The timing of the steps of one pair.
PairDays days_of(std::span<const PairStep> steps, DayCounts ends) {
  std::vector<std::int32_t> days;
  for (const PairStep& step : steps) days.push_back(step.days);
  PairDays of{statistics::quartiles_of(days), 0, DayCounts(kRateDays.back()), std::move(ends)};
  for (const PairStep& step : steps) {
    of.in_middle += step.days >= of.quartiles.lower && step.days <= of.quartiles.upper ? 1U : 0U;
    of.events.add(step.days);
    of.ends.take(step.followed);
  }
  return of;
}

/// The steps that follow one item, in order of the later item: a stable counting sort. The cost does not
/// depend on how many items there are in total.
class StepsByItem {
 public:
  explicit StepsByItem(std::size_t items) : places_(items) {}

  void sort(const std::vector<PairStep>& all) {
    for (const std::uint32_t item : items_) places_[item] = {};
    items_.clear();
    for (const PairStep& step : all)
      if (places_[step.later].steps++ == 0) items_.push_back(step.later);
    std::sort(items_.begin(), items_.end());
    std::uint32_t begin = 0;
    for (const std::uint32_t item : items_) {
      places_[item].begin = begin;
      begin += std::exchange(places_[item].steps, 0);
    }
    steps_.resize(all.size());
    for (const PairStep& step : all) {
      Place& place = places_[step.later];
      steps_[place.begin + place.steps++] = step;
    }
  }
  [[nodiscard]] const std::vector<std::uint32_t>& items() const { return items_; }
  [[nodiscard]] std::span<const PairStep> of(std::uint32_t item) const {
    return std::span(steps_).subspan(places_[item].begin, places_[item].steps);
  }

 private:
  struct Place {
    std::uint32_t begin = 0, steps = 0;
  };
  std::vector<Place> places_;  ///< by item
  std::vector<std::uint32_t> items_;
  std::vector<PairStep> steps_;
};

/// The items that appear in either list, in order; the first list is in order.
std::vector<std::uint32_t> in_either(const std::vector<std::uint32_t>& sorted,
                                     std::vector<std::uint32_t> others) {
  std::sort(others.begin(), others.end());
  std::vector<std::uint32_t> all;
  std::set_union(sorted.begin(), sorted.end(), others.begin(), others.end(), std::back_inserter(all));
  return all;
}

}  // namespace

const Transition* Transitions::find(std::uint32_t earlier, std::uint32_t later) const {
  const std::pair key(earlier, later);
  const auto found =
      std::lower_bound(pairs.begin(), pairs.end(), key,
                       [](const Transition& a, const auto& b) { return std::pair(a.earlier, a.later) < b; });
  return found == pairs.end() || std::pair(found->earlier, found->later) != key ? nullptr : &*found;
}

std::vector<double> usual_daily_rates(const mining::Histories& histories, Date data_end) {
  const std::int64_t days = std::int64_t{histories.buyers} * data_end.days - histories.first_days;
  std::vector<double> rates;
  for (const std::uint32_t buyers : histories.later) rates.push_back(buyers / static_cast<double>(days));
  return rates;
}

Transitions find_transitions(const mining::Histories& histories, const mining::HistoryIndex& index,
                             const mining::FirstPurchases& model, const mining::SequenceRule& rule,
                             Date data_end, std::uint32_t least, std::optional<std::uint32_t> about,
                             const analysis::Progress& progress) {
  const auto codes = static_cast<std::uint32_t>(histories.counts.size());
  const std::vector<double> usual = usual_daily_rates(histories, data_end);
  PairCounts counts(codes);
  std::vector<std::vector<Transition>> listed(codes);
  struct Worker {
    Follower follower;
    StepsByItem by_item;
  };
  analysis::ParallelProgress reported(progress, codes);
  tbb::enumerable_thread_specific<Worker> workers([&] {
    return Worker{Follower(histories, index, rule, data_end), StepsByItem(codes)};
  });
  tbb::parallel_for(
      tbb::blocked_range<std::uint32_t>(0, codes, 1),
      [&](const auto& run) {
        auto& [follower, by_item] = workers.local();
        for (std::uint32_t earlier = run.begin(); earlier != run.end(); ++earlier) {
          follower.follow(earlier);
          by_item.sort(follower.steps());
          const FollowedDays followed(follower.followed());
          const DayCounts ends = followed.ends(kRateDays.back());
          for (const std::uint32_t later : in_either(by_item.items(), follower.one_way_codes())) {
            const auto steps = by_item.of(later);
            const auto customers = static_cast<std::uint32_t>(steps.size());
            counts[earlier].push_back({later, customers, follower.one_way(later), 0});
            if (customers == 0 || (customers < least && earlier != about && later != about)) continue;
            Transition pair;
            pair.earlier = earlier, pair.later = later;
            pair.both = customers, pair.one_way = follower.one_way(later);
            set_timing(days_of(steps, ends), followed, usual[later], pair);
            listed[earlier].push_back(pair);
          }
          reported.advance();
        }
      },
      tbb::simple_partitioner());
  Transitions found;
  for (const auto& own : listed) found.pairs.insert(found.pairs.end(), own.begin(), own.end());
  if (rule.repeats != mining::Repeats::only) {
    expect_directions(histories, model, counts);
    test_directions(counts, least, about, found);
  }
  return found;
}

std::vector<statistics::SurvivalDay> share_by_day(const mining::Histories& histories,
                                                  const mining::HistoryIndex& index,
                                                  const mining::SequenceRule& rule, Date data_end,
                                                  std::uint32_t earlier, std::uint32_t later) {
  Follower follower(histories, index, rule, data_end);
  follower.follow(earlier);
  std::vector<PairStep> steps = follower.steps();
  std::erase_if(steps, [&](const PairStep& step) { return step.later != later; });
  std::int32_t last_day = 0;
  for (const PairStep& step : steps) last_day = std::max(last_day, step.days);
  return curve(steps, FollowedDays(follower.followed()).ends(last_day), follower.followed().size(), last_day);
}

}  // namespace pear::sequence
