// The days from one purchase to another, of the customers of one pair.
#pragma once

#include <cstdint>
#include <utility>
#include <vector>

#include "questions/sequence/transitions.hpp"
#include "statistics/quantile.hpp"
#include "statistics/survival.hpp"

namespace pear::sequence {

/// Numbers of customers by day, up to the last day of interest.
class DayCounts {
 public:
  explicit DayCounts(std::int32_t last) : counts_(static_cast<std::size_t>(last) + 1) {}
  void add(std::int32_t day, std::uint32_t customers = 1) {
    if (const auto place = static_cast<std::size_t>(day); place < counts_.size()) counts_[place] += customers;
  }
  void take(std::int32_t day, std::uint32_t customers = 1) {
    if (const auto place = static_cast<std::size_t>(day); place < counts_.size()) counts_[place] -= customers;
  }
  [[nodiscard]] const std::vector<std::uint32_t>& counts() const { return counts_; }

 private:
  std::vector<std::uint32_t> counts_;
};

/// For how many days the customers of an item were observed after its first purchase.
class FollowedDays {
 public:
  FollowedDays() = default;
  /// One number for each customer, in any order.
  explicit FollowedDays(std::vector<std::int32_t> followed);
  /// So many more customers; days must not descend from one call to the next.
  void add(std::int32_t days, std::uint64_t customers);

  [[nodiscard]] std::uint64_t customers() const { return sums_.back().customers; }
  /// The total number of days from `first` to `last` after their purchase on which they were observed.
  [[nodiscard]] std::int64_t within(std::int32_t first, std::int32_t last) const;
  /// How many customers were observed up to each day, and not longer.
  [[nodiscard]] DayCounts ends(std::int32_t last) const;

 private:
  /// Of the customers observed for fewer days.
  struct Sums {
    std::uint64_t customers = 0;
    std::int64_t days = 0;
  };
  /// Of customers observed for fewer than so many days.
  [[nodiscard]] Sums below(std::int32_t days) const;

  std::vector<std::int32_t> days_;  ///< that occur, ascending
  std::vector<Sums> sums_{{}};      ///< before each of them, and of all
};

/// What is known of the customers who took one step.
struct PairDays {
  statistics::Quartiles<std::int32_t> quartiles;  ///< of their days
  std::uint64_t in_middle = 0;                    ///< customers from the first quartile to the third
  DayCounts events, ends;  ///< up to the last of kRateDays: steps, and the end of observation of the others
};

/// Sets the days, rates and ratios of a pair. `usual_daily` is the usual rate per day of the later item.
void set_timing(const PairDays& days, const FollowedDays& followed, double usual_daily, Transition& pair);

}  // namespace pear::sequence
