// When items are sold, and when customers buy.
#pragma once

#include <algorithm>
#include <cstdint>
#include <span>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/aggregate/grouping.hpp"

namespace pear::mining {

/// The visits of customers (days on which they bought anything) and how popular each item was at the time. So
/// it can be said which of two items a customer would have bought first if only the calendar decided: an item
/// that is launched late is bought after others, without being triggered by them.
class PurchaseCalendar {
 public:
  /// Purchases only. Two passes over the lines, on all threads; the same for any number of them.
  PurchaseCalendar(const daybook::Daybook& daybook, const expression::GroupKey& key);

  [[nodiscard]] std::uint32_t visits(std::uint32_t customer) const {
    return begins_[customer + 1] - begins_[customer];
  }

  /// At which visits of one customer an item may have been bought as often as it was, each choice of visits
  /// with the product of its popularities as weight.
  struct Choices {
    std::uint32_t times = 1;
    std::vector<double>
        before;  ///< by visit, and after the last: the weight of all choices among those before it
    std::vector<double> first;  ///< by visit: the weight of all choices of which it is the first

    /// The probability that `later` was never bought before this item, if either that or the opposite is the
    /// case, and they were not both bought on a single day only. O(visits).
    [[nodiscard]] double probability_before(const Choices& later) const;

    std::vector<double> sums;  ///< for choose()
  };
  /// Of an item that the customer bought on so many days. Weights are relative to the largest one. O(visits x
  /// times).
  void choose(std::uint32_t customer, std::uint32_t code, std::uint32_t times, Choices& choices) const;

 private:
  /// The days from an item's first sale to its last, in parts of equal length. Before and after, it is not
  /// sold.
  struct Sold {
    std::int32_t first = 0, last = -1;
    std::uint32_t begin = 0, parts = 0;  ///< in popularity_
    float parts_per_day = 0;

    [[nodiscard]] std::uint32_t part_of(std::int32_t day) const {
      return begin +
             std::min(parts - 1, static_cast<std::uint32_t>(static_cast<float>(day - first) * parts_per_day));
    }
  };
  [[nodiscard]] double popularity(const Sold& item, std::int32_t day) const {
    return day < item.first || day > item.last ? 0 : double{popularity_[item.part_of(day)]};
  }
  void read_visits(const daybook::Daybook& daybook, const expression::GroupKey& key);
  void divide_time(std::span<const std::uint32_t> purchases);
  void set_popularity(const daybook::Daybook& daybook, const expression::GroupKey& key);

  std::vector<std::uint32_t> begins_{0};  ///< by customer the first visit, and the end
  std::vector<std::int32_t> visits_;      ///< days
  std::vector<Sold> items_;
  std::vector<float> popularity_;  ///< by item and part: purchases per visit
};

}  // namespace pear::mining
