// What customers bought one after another: lines put into histories of items.
#pragma once

#include <algorithm>
#include <cstdint>
#include <limits>
#include <span>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/grouping.hpp"

namespace pear {

/// Which purchases of an item count: the first of each customer, all, or all but for nothing else than their
/// own recurrence.
enum class Repeats : std::uint8_t { first, all, only };

/// What may follow what.
struct SequenceRule {
  static constexpr std::int32_t kAny = std::numeric_limits<std::int32_t>::max();
  std::int32_t min_gap = 1, max_gap = kAny;  ///< days between a step and the next
  std::int32_t span = kAny;                  ///< days from the first step to the last
  bool sets = false;                         ///< a step may be several items of one order
  Repeats repeats = Repeats::first;

  [[nodiscard]] std::int32_t longest_gap() const { return std::min(max_gap, span); }
};

/// One item of an order of a customer. Items of one order stand together, in order of code.
struct HistoryEntry {
  std::uint32_t code = 0;
  std::uint32_t order : 30 = 0;
  std::uint32_t follows : 1 = 0;   ///< an earlier order of the customer, within the gaps that the rule allows
  std::uint32_t is_first : 1 = 0;  ///< the customer's first purchase of the item
  std::int32_t day = 0;
  std::int32_t last_day = 0;  ///< of the customer's last purchase of the item, whether that one counts or not
};

/// The entries of customers behind one another, each customer's in order of time.
struct Histories {
  std::vector<HistoryEntry> entries;
  std::vector<std::uint32_t> begins{0};  ///< by customer the first entry, and the end
  std::vector<std::uint32_t> counts;     ///< by code, how many customers bought it
  std::uint32_t buyers = 0;              ///< customers with an entry

  [[nodiscard]] std::uint32_t customers() const { return static_cast<std::uint32_t>(begins.size() - 1); }
  [[nodiscard]] std::span<const HistoryEntry> of(std::uint32_t customer) const {
    return std::span(entries).subspan(begins[customer], begins[customer + 1] - begins[customer]);
  }
};

/// Purchases only; an item once in an order, and once in all where only the first counts. Items without a
/// value of the key are in none. O(lines) on all threads; the same for any number of them.
[[nodiscard]] Histories gather_histories(const Daybook& daybook, const GroupKey& key,
                                         const SequenceRule& rule);

/// Those entries whose item at least so many customers bought; all customers and counts stay.
[[nodiscard]] Histories frequent_part(const Histories& histories, std::uint32_t least);

/// Where each item stands: its entries with their customers, in order of customer and time.
class HistoryIndex {
 public:
  struct Place {
    std::uint32_t customer = 0, entry = 0;
  };
  explicit HistoryIndex(const Histories& histories);
  [[nodiscard]] std::span<const Place> of(std::uint32_t code) const {
    return std::span(places_).subspan(begins_[code], begins_[code + 1] - begins_[code]);
  }

 private:
  std::vector<Place> places_;
  std::vector<std::uint32_t> begins_;
};

}  // namespace pear
