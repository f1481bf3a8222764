// When customers buy items for the first time.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/aggregate/grouping.hpp"
#include "mining/purchase_histories.hpp"

namespace pear::mining {

/// How likely a customer is to buy an item for the first time at each visit (a day with a purchase): the
/// hazard of a discrete-time survival model, the item's rate at that time of its sale multiplied by a factor
/// of the customer's visit number (Cox, Regression models and life-tables, JRSS B 34, 1972, section 6). So it
/// can be said which of two items a customer would have bought first if neither triggered the other: an item
/// that is launched late, or that customers adopt late, is bought after others without being triggered by
/// them.
class FirstPurchases {
 public:
  /// Of the purchases of a daybook, with the histories of the same key. O(first purchases x visits after
  /// them) on all threads; the same for any number of them.
  FirstPurchases(const daybook::Daybook& daybook, const expression::GroupKey& key,
                 const Histories& histories);

  /// Whether a customer is part of the model. One id for all cash sales has thousands of visits: it would
  /// take minutes, and shows nothing about customers.
  [[nodiscard]] bool includes(std::uint32_t customer) const {
    constexpr std::size_t kMostVisits = 500;
    return visits(customer).size() <= kMostVisits;
  }

  /// Of one visit: the probabilities that an item is bought for the first time then, and before.
  struct Moment {
    double at = 0, before = 0;
  };
  using Timing = std::vector<Moment>;  ///< of one item and customer, by visit
  /// Of an item that a customer in the model bought. O(visits).
  void set_timing(std::uint32_t customer, std::uint32_t code, Timing& timing) const;

 private:
  /// Visit numbers are grouped, two groups for each doubling: 1, 2, 3, 4 to 5, 6 to 7, 8 to 11, ...
  static constexpr std::size_t kGroups = 18;
  using ByGroup = std::array<std::uint32_t, kGroups>;
  [[nodiscard]] static std::size_t group_of(std::size_t number);

  /// The days from an item's first sale to a new customer to the last, in parts of equal length. Before and
  /// after, nobody buys it for the first time.
  struct Sold {
    std::int32_t first = 0, last = -1;
    std::uint32_t begin = 0, parts = 0;  ///< in rates_
    float parts_per_day = 0;
    std::array<float, kGroups> factors = {};  ///< by group of visit numbers

    [[nodiscard]] bool contains(std::int32_t day) const { return day >= first && day <= last; }
    [[nodiscard]] std::uint32_t part_of(std::int32_t day) const {
      return begin +
             std::min(parts - 1, static_cast<std::uint32_t>(static_cast<float>(day - first) * parts_per_day));
    }
  };
  /// By part and group.
  struct Exposure {
    std::vector<ByGroup> visits;  ///< of customers who had not bought the item before
    std::vector<ByGroup> firsts;  ///< of these, how many bought it
  };

  [[nodiscard]] std::span<const std::int32_t> visits(std::uint32_t customer) const {
    return std::span(visits_).subspan(begins_[customer], begins_[customer + 1] - begins_[customer]);
  }
  void read_visits(const daybook::Daybook& daybook, const expression::GroupKey& key);
  void divide_time(const Histories& histories);
  [[nodiscard]] Exposure all_visits() const;
  void count(const Histories& histories, Exposure& exposure) const;
  void fit(Sold& item, const Exposure& exposure);

  std::vector<std::uint32_t> begins_{0};  ///< by customer the first visit, and the end
  std::vector<std::int32_t> visits_;      ///< days
  std::vector<Sold> items_;
  std::vector<float> rates_;  ///< by item and part: first purchases per visit without an earlier one
};

/// The probability that a customer bought the first item earlier if both were bought, and not first at the
/// same visit. O(visits).
[[nodiscard]] double probability_before(const FirstPurchases::Timing& earlier,
                                        const FirstPurchases::Timing& later);

}  // namespace pear::mining
