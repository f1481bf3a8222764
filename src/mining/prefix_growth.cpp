#include "mining/prefix_growth.hpp"

#include <algorithm>
#include <atomic>
#include <limits>
#include <memory>
#include <utility>

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "mining/earliest_embedding.hpp"
#include "statistics/quantile.hpp"

namespace pear::mining {
namespace {

constexpr std::uint32_t kNoCustomer = 0xFFFFFFFF;
constexpr std::int32_t kNoDay = std::numeric_limits<std::int32_t>::min();

/// A place at which a sequence can end: the entry of its last item, the latest day of a first step that
/// reaches it, and the day of the step before.
struct Ending {
  std::uint32_t end = 0,
                entry = 0;  ///< `end` of the customer's history, by which customers are distinguished
  std::int32_t start = 0, before = 0;
};

/// Grows all sequences that begin with one item. One for each thread.
class PatternGrower {
 public:
  PatternGrower(const Histories& histories, const HistoryIndex& index, const SequenceRule& rule,
                const MiningBounds& bounds, std::atomic<std::size_t>& found)
      : histories_(histories),
        index_(index),
        rule_(rule),
        bounds_(bounds),
        found_(found),
        codes_(static_cast<std::uint32_t>(histories.counts.size())) {}

  void grow_from(std::uint32_t code, Sequences& into) {
    std::vector<Ending> endings;
    for (const HistoryIndex::Place place : index_.of(code)) {
      const std::int32_t day = histories_.entries[place.entry].day;
      endings.push_back({place.end, place.entry, day, day});
    }
    items_.assign(1, StepItem(code, true));
    steps_ = 1;
    into.add(items_, facts_of(endings, histories_.counts[code]));
    grow(endings, 0, into);
  }

 private:
  /// What can follow the endings of one sequence, by the addition: an item as a further step, or, after all
  /// of these, as a further item of the last step.
  struct Level {
    std::vector<std::uint32_t> customers, endings, last_customer;
    std::vector<std::uint32_t> touched;
    std::vector<Ending> places;
  };

  void grow(std::span<const Ending> endings, std::size_t depth, Sequences& into) {
    if (found_ > bounds_.at_most) return;
    while (levels_.size() <= depth) levels_.push_back(std::make_unique<Level>(new_level()));
    Level& level = *levels_[depth];
    count(endings, level);
    struct Addition {
      std::uint32_t what = 0, customers = 0, begin = 0, end = 0;
    };
    std::vector<Addition> additions;
    for (const std::uint32_t what : level.touched)
      if (level.customers[what] >= bounds_.least) additions.push_back({what, level.customers[what], 0, 0});
    std::sort(additions.begin(), additions.end(),
              [](const Addition& a, const Addition& b) { return a.what < b.what; });
    std::uint32_t all = 0;
    for (Addition& addition : additions) {
      addition.begin = all;
      all += level.endings[addition.what];
      addition.end = all;
    }
    for (const std::uint32_t what : level.touched) level.endings[what] = kNoCustomer;
    for (const Addition& addition : additions) level.endings[addition.what] = addition.begin;
    deliver(endings, all, level);
    for (const std::uint32_t what : level.touched) {
      level.customers[what] = level.endings[what] = 0;
      level.last_customer[what] = kNoCustomer;
    }
    level.touched.clear();
    for (const Addition& addition : additions)
      grow_by(addition.what, addition.customers,
              std::span(level.places).subspan(addition.begin, addition.end - addition.begin), depth, into);
  }

  void grow_by(std::uint32_t what, std::uint32_t customers, std::span<const Ending> endings,
               std::size_t depth, Sequences& into) {
    const bool is_step = what < codes_;
    items_.emplace_back(is_step ? what : what - codes_, is_step);
    steps_ += is_step ? 1 : 0;
    if (steps_ > 1) ++found_;
    into.add(items_, facts_of(endings, customers));
    if (steps_ < bounds_.largest || rule_.sets) grow(endings, depth + 1, into);
    steps_ -= is_step ? 1 : 0;
    items_.pop_back();
  }

  [[nodiscard]] Level new_level() const {
    const std::size_t size = rule_.sets ? 2 * std::size_t{codes_} : codes_;
    return {std::vector<std::uint32_t>(size),
            std::vector<std::uint32_t>(size),
            std::vector<std::uint32_t>(size, kNoCustomer),
            {},
            {}};
  }

  void count(std::span<const Ending> endings, Level& level) {
    const bool may_recur = rule_.repeats != Repeats::first;
    follow(endings, [&](std::uint32_t what, const Ending& ending) {
      if (level.endings[what]++ == 0) level.touched.push_back(what);
      if (may_recur && std::exchange(level.last_customer[what], ending.end) != ending.end)
        ++level.customers[what];
    });
    if (may_recur) return;
    for (const std::uint32_t what : level.touched) level.customers[what] = level.endings[what];
  }

  /// Assigns every ending to its addition. Counts have become the next free places.
  void deliver(std::span<const Ending> endings, std::uint32_t all, Level& level) {
    level.places.resize(all);
    follow(endings, [&](std::uint32_t what, const Ending& ending) {
      std::uint32_t& next = level.endings[what];
      if (next != kNoCustomer) level.places[next++] = ending;
    });
  }

  /// visit(what, ending) for all possible additions, customer by customer.
  template <class Visit>
  void follow(std::span<const Ending> endings, const Visit& visit) {
    const bool may_step = steps_ < bounds_.largest;
    for (std::size_t begin = 0; begin < endings.size();) {
      fetch_ahead(histories_.entries, endings, begin);
      std::size_t end = begin + 1;
      while (end < endings.size() && endings[end].end == endings[begin].end) ++end;
      const auto own = endings.subspan(begin, end - begin);
      if (may_step && own.size() == 1)
        step_on(own.front(), visit);
      else if (may_step)
        step_on_from_any(own, visit);
      for (const Ending& ending : own)
        if (rule_.sets) widen(ending, visit);
      begin = end;
    }
  }

  [[nodiscard]] bool may_be_next(const HistoryEntry& entry) const {
    return rule_.repeats != Repeats::only || entry.code == items_.front().code();
  }

  template <class Visit>
  void step_on(const Ending& ending, const Visit& visit) const {
    const auto& entries = histories_.entries;
    const std::int32_t day = entries[ending.entry].day;
    for (std::uint32_t next = ending.entry + 1; next < ending.end; ++next) {
      const HistoryEntry& entry = entries[next];
      if (entry.day - day < rule_.min_gap) continue;
      if (entry.day - day > rule_.max_gap || entry.day - ending.start > rule_.span) break;
      if (may_be_next(entry)) visit(entry.code, Ending{ending.end, next, ending.start, day});
    }
  }

  /// The same from several endings of one customer: each entry once, with the latest start.
  template <class Visit>
  void step_on_from_any(std::span<const Ending> own, const Visit& visit) {
    const std::uint32_t first = own.front().entry, end = own.front().end;
    starts_.assign(end - first, kNoDay);
    for (const Ending& ending : own)
      step_on(ending, [&](std::uint32_t, const Ending& next) {
        starts_[next.entry - first] = std::max(starts_[next.entry - first], next.start);
      });
    for (std::uint32_t entry = first; entry < end; ++entry) {
      if (starts_[entry - first] == kNoDay) continue;
      visit(histories_.entries[entry].code, Ending{own.front().end, entry, starts_[entry - first], 0});
    }
  }

  /// Further items of the order of the last step.
  template <class Visit>
  void widen(const Ending& ending, const Visit& visit) const {
    const auto& entries = histories_.entries;
    for (std::uint32_t next = ending.entry + 1;
         next < ending.end && entries[next].order == entries[ending.entry].order; ++next)
      if (rule_.repeats != Repeats::only)
        visit(codes_ + entries[next].code, Ending{ending.end, next, ending.start, ending.before});
  }

  SequenceFacts facts_of(std::span<const Ending> endings, std::uint32_t customers) {
    SequenceFacts facts;
    facts.customers = customers;
    if (steps_ == 1) {
      facts.after_any = after_any_of(endings);
      return facts;
    }
    last_days_.clear();
    all_days_.clear();
    std::uint32_t customer = kNoCustomer;
    for (const Ending& ending : endings) {
      if (ending.end == customer) continue;
      customer = ending.end;
      const std::int32_t day = histories_.entries[ending.entry].day;
      const EmbeddingDays days =
          rule_.repeats == Repeats::first
              ? EmbeddingDays{day - ending.before, day - ending.start}
              : earliest_embedding(histories_.around(ending.entry, ending.end), items_, rule_);
      last_days_.push_back(days.last);
      all_days_.push_back(days.all);
    }
    facts.last_days = *statistics::quantile_of(last_days_, statistics::kHalf);
    facts.all_days = steps_ == 2 ? facts.last_days : *statistics::quantile_of(all_days_, statistics::kHalf);
    return facts;
  }

  [[nodiscard]] std::uint32_t after_any_of(std::span<const Ending> endings) const {
    std::uint32_t customers = 0, last = kNoCustomer;
    for (const Ending& ending : endings) {
      if (ending.end == last || !histories_.entries[ending.entry].follows) continue;
      last = ending.end;
      ++customers;
    }
    return customers;
  }

  const Histories& histories_;
  const HistoryIndex& index_;
  const SequenceRule& rule_;
  const MiningBounds& bounds_;
  std::atomic<std::size_t>& found_;
  std::uint32_t codes_;
  std::vector<StepItem> items_;  ///< of the sequence that is grown
  std::size_t steps_ = 0;
  std::vector<std::unique_ptr<Level>> levels_;
  std::vector<std::int32_t> starts_, last_days_, all_days_;
};

}  // namespace

std::optional<Sequences> mine_sequences(const Histories& histories, const HistoryIndex& index,
                                        const SequenceRule& rule, const MiningBounds& bounds,
                                        const analysis::Progress& progress) {
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code < histories.counts.size(); ++code)
    if (histories.counts[code] >= bounds.least) codes.push_back(code);
  std::atomic<std::size_t> found = 0;
  std::vector<Sequences> by_first(codes.size());
  analysis::ParallelProgress reported(progress, codes.size());
  tbb::enumerable_thread_specific<PatternGrower> growers(
      [&] { return PatternGrower(histories, index, rule, bounds, found); });
  tbb::parallel_for(
      tbb::blocked_range<std::size_t>(0, codes.size(), 1),
      [&](const auto& run) {
        for (std::size_t i = run.begin(); i != run.end(); ++i) {
          growers.local().grow_from(codes[i], by_first[i]);
          reported.advance();
        }
      },
      tbb::simple_partitioner());
  if (found > bounds.at_most) return std::nullopt;
  Sequences sequences;
  for (Sequences& each : by_first) {
    sequences.append(each);
    each = {};
  }
  sequences.sort();
  return sequences;
}

}  // namespace pear::mining
