// Purchase histories: the items that each customer bought, in order of time.
#pragma once

#include <algorithm>
#include <cstdint>
#include <limits>
#include <span>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/aggregate/grouping.hpp"

namespace pear::mining {

/// Which purchases of an item count: the first of each customer, all, or all that another item separates from
/// the previous one.
enum class Repeats : std::uint8_t { first, all, only };

/// The rule for what may follow what.
struct SequenceRule {
  static constexpr std::int32_t kAny = std::numeric_limits<std::int32_t>::max();
  std::int32_t min_gap = 1, max_gap = kAny;  ///< days between a step and the next; 1 or more
  std::int32_t span = kAny;                  ///< days from the first step to the last
  bool sets = false;                         ///< a step may be several items of one order
  Repeats repeats = Repeats::first;

  [[nodiscard]] std::int32_t longest_gap() const { return std::min(max_gap, span); }
};

/// One item of an order of a customer. Items of the same order follow one another, in order of code.
struct HistoryEntry {
  std::uint32_t code = 0;
  std::uint32_t order : 29 = 0;    ///< distinguished from that of its neighbours
  std::uint32_t follows : 1 = 0;   ///< whether the customer has an earlier order within the gaps of the rule
  std::uint32_t is_first : 1 = 0;  ///< the customer's first purchase of the item
  std::uint32_t begins : 1 = 0;    ///< the first entry of a history
  std::int32_t day = 0;
};

/// The entries of customers, one customer after another, each customer's in order of time.
struct Histories {
  std::vector<HistoryEntry> entries;
  std::vector<std::uint32_t> begins{0};  ///< by customer the first entry, and the end
  std::vector<std::uint32_t> counts;     ///< by code, how many customers bought it
  std::vector<std::uint32_t> after_any;  ///< by code, how many bought it after any order, within the gaps
  std::vector<std::uint32_t> later;      ///< by code, how many bought it after their first day
  std::uint32_t buyers = 0;              ///< customers with an entry
  std::int64_t first_days = 0;           ///< the sum of the first days of all these customers

  [[nodiscard]] std::uint32_t customers() const { return static_cast<std::uint32_t>(begins.size() - 1); }
  [[nodiscard]] std::span<const HistoryEntry> of(std::uint32_t customer) const {
    return std::span(entries).subspan(begins[customer], begins[customer + 1] - begins[customer]);
  }
  /// Makes the processor fetch a history before it is read: see fetch_ahead.
  void fetch(std::uint32_t customer) const {
    constexpr std::uint32_t kPerLine = 64 / sizeof(HistoryEntry), kMostLines = 6;
    const std::uint32_t begin = begins[customer];
    const std::uint32_t end = std::min(begins[customer + 1], begin + kMostLines * kPerLine);
    for (std::uint32_t entry = begin; entry < end; entry += kPerLine) __builtin_prefetch(&entries[entry]);
  }
  /// The history that contains an entry and ends with `end`.
  [[nodiscard]] std::span<const HistoryEntry> around(std::uint32_t entry, std::uint32_t end) const {
    while (entries[entry].begins == 0) --entry;
    return std::span(entries).subspan(entry, end - entry);
  }
};

/// Purchases only; an item once in an order, and only once in total if only the first counts. Items without a
/// value of the key are left out. O(lines) on all threads; the same for any number of them.
[[nodiscard]] Histories gather_histories(const daybook::Daybook& daybook, const expression::GroupKey& key,
                                         const SequenceRule& rule);

/// Keeps the entries whose item at least this many customers bought; customers and counts do not change.
void drop_rare(Histories& histories, std::uint32_t least);

/// Where each item occurs: its entries, in order of customer and time, each with the end of its customer's
/// history, which identifies the customer. O(entries).
class HistoryIndex {
 public:
  struct Place {
    std::uint32_t end = 0, entry = 0;
  };
  explicit HistoryIndex(const Histories& histories);
  [[nodiscard]] std::span<const Place> of(std::uint32_t code) const {
    return std::span(places_).subspan(begins_[code], begins_[code + 1] - begins_[code]);
  }

 private:
  std::vector<Place> places_;
  std::vector<std::uint32_t> begins_;
};

/// Makes the processor fetch the entries at and after a place further on: customers are spread all over
/// memory, and waiting for one after another takes most of the time of a walk over an item's places.
template <class Places>
void fetch_ahead(const std::vector<HistoryEntry>& entries, const Places& places, std::size_t at) {
  constexpr std::size_t kAhead = 16, kPerLine = 64 / sizeof(HistoryEntry), kLines = 3;
  if (at + kAhead >= places.size()) return;
  const HistoryEntry* entry = &entries[places[at + kAhead].entry];
  for (std::size_t line = 0; line < kLines; ++line) __builtin_prefetch(entry + line * kPerLine);
}

}  // namespace pear::mining
