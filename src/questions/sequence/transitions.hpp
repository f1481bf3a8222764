// What customers who bought one item bought afterwards, and when: every pair.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/date.hpp"
#include "mining/first_purchases.hpp"
#include "mining/purchase_histories.hpp"
#include "statistics/survival.hpp"

namespace pear::sequence {

/// The numbers of days for which the share having bought is shown.
constexpr std::array<std::int32_t, 3> kRateDays = {30, 90, 180};

/// `earlier`, then `later`. A customer's days are from the first purchase of `earlier` that has one of
/// `later` within the gaps allowed, to the first of these.
struct Transition {
  std::uint32_t earlier = 0, later = 0;
  std::uint32_t both = 0;     ///< customers who bought `later` after `earlier`
  std::uint32_t reverse = 0;  ///< customers who bought `earlier` after `later`, in the same way
  /// Of first purchases, within the gaps or not: customers who first bought `later` after `earlier`, on
  /// another day; and the other way round.
  std::uint32_t one_way = 0, other_way = 0;
  double expected_one_way = 0;  ///< of these customers, if neither triggers the other
  double p = 1, q = 1;          ///< of the direction: one_way compared with expected_one_way
  std::int32_t days_p25 = 0, days_median = 0, days_p75 = 0;
  std::array<double, kRateDays.size()> rates = {};  ///< NaN if nobody was observed that long
  /// How many times the usual rate per day `later` is bought within the middle half of these days, from
  /// days_p25 to days_p75 (a ratio of incidence rates): customers who did so divided by the days of
  /// observation then, divided by the same for all customers at any time after their first day. It
  /// distinguishes a step with a typical time from a shared taste, which has no such time.
  double rate_ratio = 0;
  double sure_ratio = 0;  ///< the same by the lower end of the 95% interval of those customers' share
};

struct Transitions {
  std::vector<Transition> pairs;  ///< in order of earlier, then later
  std::uint64_t directions_tested = 0;

  [[nodiscard]] const Transition* find(std::uint32_t earlier, std::uint32_t later) const;
};

/// All pairs that at least `least` customers went through, and those with the item `about` whatever their
/// number. Directions are tested for all pairs of items that at least this many customers first bought on
/// different days, and for all pairs with the item `about`; never for an item and itself: the sequence ratio
/// of sequence symmetry analysis and its null-effect ratio (Hallas, Evidence of depression provoked by
/// cardiovascular medication, Epidemiology 7, 1996; Tsiropoulos, Andersen and Hallas, Adverse events with use
/// of antiepileptic drugs, Pharmacoepidemiology and Drug Safety 18, 2009). What is expected follows, for each
/// customer's own visits instead of a window for all, from the `model` of first purchases: items are
/// launched, withdrawn, have seasons, and are adopted early or late; what is bought often is bought early.
/// `data_end` is the last day of the sales: customers were observed until then. O(pairs of entries of each
/// customer) on all threads; the same for any number of them.
[[nodiscard]] Transitions find_transitions(const mining::Histories& histories,
                                           const mining::HistoryIndex& index,
                                           const mining::FirstPurchases& model,
                                           const mining::SequenceRule& rule, Date data_end,
                                           std::uint32_t least, std::optional<std::uint32_t> about = {},
                                           const analysis::Progress& progress = {});

/// By item: the number of customers who buy it on one day, per day of observation after their first day.
[[nodiscard]] std::vector<double> usual_daily_rates(const mining::Histories& histories, Date data_end);

/// The share of those who bought `earlier` that have bought `later` by each day, up to the last day on which
/// one did.
[[nodiscard]] std::vector<statistics::SurvivalDay> share_by_day(const mining::Histories& histories,
                                                                const mining::HistoryIndex& index,
                                                                const mining::SequenceRule& rule,
                                                                Date data_end, std::uint32_t earlier,
                                                                std::uint32_t later);

}  // namespace pear::sequence
