// What customers who bought one item bought afterwards, and when: every pair.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/date.hpp"
#include "mining/purchase_histories.hpp"
#include "statistics/survival.hpp"

namespace pear::sequence {

/// By how many days after a purchase it is shown which share has bought.
constexpr std::array<std::int32_t, 3> kRateDays = {30, 90, 180};

/// `earlier`, then `later`. A customer's days are from the first purchase of `earlier` that has one of
/// `later` within the gaps allowed, to the first of these.
struct Transition {
  std::uint32_t earlier = 0, later = 0;
  std::uint32_t both = 0;     ///< customers who bought `later` after `earlier`
  std::uint32_t reverse = 0;  ///< customers who bought `earlier` after `later`, in the same way
  /// Of all purchases, whether they count or not: customers who bought `later` after `earlier` and never the
  /// other way round; and those who only did the opposite.
  std::uint32_t one_way = 0, other_way = 0;
  double p = 1, q = 1;  ///< of the direction: the sign test of these two
  std::int32_t days_p25 = 0, days_median = 0, days_p75 = 0;
  std::array<double, kRateDays.size()> rates = {};  ///< NaN where nobody was followed so long
  /// How many times as often a day as usual `later` is bought within the middle half of these days, from
  /// days_p25 to days_p75 (a ratio of incidence rates): customers who did so by the days on which customers
  /// were followed then, by the same of all customers at any time after their first day. What tells a step
  /// with a typical time from mere taste, which has no such time.
  double rate_ratio = 0;
  double sure_ratio = 0;  ///< the same by the lower end of the 95% interval of those customers' share
};

struct Transitions {
  std::vector<Transition> pairs;  ///< in order of earlier, then later
  std::uint64_t directions_tested = 0;

  [[nodiscard]] const Transition* find(std::uint32_t earlier, std::uint32_t later) const;
};

/// All pairs that at least `least` customers went through, and those with the item `about` whatever their
/// number. Directions are tested of all pairs of items that at least so many customers bought one way or the
/// other, but not both ways, and of all with the item `about`; none of an item and itself. First purchases
/// alone would not do for that: what is bought often is bought early, too. `data_end` is
/// the last day of which the sales tell: until then customers were followed. O(pairs of entries of each
/// customer) on all threads; the same for any number of them.
[[nodiscard]] Transitions find_transitions(const mining::Histories& histories,
                                           const mining::HistoryIndex& index,
                                           const mining::SequenceRule& rule, Date data_end,
                                           std::uint32_t least, std::optional<std::uint32_t> about = {},
                                           const analysis::Progress& progress = {});

/// The share of those who bought `earlier` that have bought `later` by so many days after, for each day up to
/// the last one at which one did.
[[nodiscard]] std::vector<statistics::SurvivalDay> share_by_day(const mining::Histories& histories,
                                                                const mining::HistoryIndex& index,
                                                                const mining::SequenceRule& rule,
                                                                Date data_end, std::uint32_t earlier,
                                                                std::uint32_t later);

}  // namespace pear::sequence
