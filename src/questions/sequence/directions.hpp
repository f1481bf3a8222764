// Whether customers buy one item before another more often than the calendar explains.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "mining/purchase_calendar.hpp"
#include "mining/purchase_histories.hpp"
#include "questions/sequence/transitions.hpp"

namespace pear::sequence {

/// One pair that occurs, with its numbers of customers.
struct PairCount {
  static constexpr double kScale =
      1 << 24;  ///< of the sums, which are whole so that their order does not matter
  std::uint32_t later = 0, customers = 0;
  std::uint32_t one_way = 0;  ///< bought `later` after the other, and never before it
  std::uint64_t expected = 0,
                variance = 0;  ///< of one_way and other_way customers, as if the calendar decided
};
/// By earlier item, in order of the later one.
using PairCounts = std::vector<std::vector<PairCount>>;

/// Whether a customer never bought the item of `later` before that of `earlier`, and not both on one day
/// only. Given the first entry of each.
[[nodiscard]] inline bool is_one_way(const mining::HistoryEntry& earlier, const mining::HistoryEntry& later) {
  return later.is_first != 0 && later.day >= earlier.last_day && later.last_day != earlier.day &&
         later.code != earlier.code;
}

/// Sets the expected numbers of all pairs with one-way customers: for each of them, the probability of their
/// order by the calendar. O(pairs of items of each customer x visits) on all threads; the same for any number
/// of them.
void expect_directions(const mining::Histories& histories, const mining::PurchaseCalendar& calendar,
                       PairCounts& counts);

/// Tests all pairs that enough customers bought one way: once for both rows of a pair.
void test_directions(const PairCounts& counts, std::uint32_t least, std::optional<std::uint32_t> about,
                     Transitions& found);

}  // namespace pear::sequence
