// What customers bought next, by what they had bought and how long ago.
#pragma once

#include <algorithm>
#include <cstdint>
#include <span>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "analysis/question_input.hpp"
#include "mining/purchase_histories.hpp"
#include "recommender/landmarks.hpp"
#include "recommender/step_tests.hpp"

namespace pear::recommender {

/// Customers who stood alike to a product that they had bought, and had not bought the other yet (or who may
/// buy the same again): more of them bought it than would have anyway.
struct StepCell {
  std::uint32_t later = 0;
  std::uint8_t standing = 0;
  Observed seen;
};

/// When the first purchase of a product came, after the last one before it of another within a year: days.
/// Of one and the same: from one purchase to the next.
struct StepTimes {
  std::uint32_t earlier = 0, later = 0;
  std::int32_t days_p25 = 0, days_median = 0, days_p75 = 0;
  std::uint32_t purchases = 0;  ///< what the days are of
  std::uint32_t together = 0;   ///< in how many of these the order held the earlier one, too
};

/// Everything that offers rest on: steps (see find_steps and refine_steps) and what is popular.
class StepModel {
 public:
  /// Has items and shares learn what is bought without steps.
  StepModel(const mining::Histories& histories, const Landmarks& lookback,
            const analysis::CustomerGroups& groups, const Categories& shelves, OrderRate& items,
            CategoryShares& shares, const analysis::Progress& progress = {});

  /// What follows a product for customers who stand like that to it, in order of the later ones.
  [[nodiscard]] std::span<const StepCell> after(std::uint32_t earlier, std::size_t standing) const {
    const std::size_t place = earlier * kStandings + standing;
    return std::span(cells_).subspan(begins_[place], begins_[place + 1] - begins_[place]);
  }
  [[nodiscard]] const StepCell& cell(std::uint32_t place) const { return cells_[place]; }
  [[nodiscard]] std::uint32_t place_of(const StepCell& cell) const {
    return static_cast<std::uint32_t>(&cell - cells_.data());
  }
  /// Of customers of a group in a cell who would not have bought it anyway, the share that does.
  [[nodiscard]] double excess(const StepCell& cell, std::uint32_t group) const {
    return of_groups_[std::size_t{place_of(cell)} * groups_ + group].excess;
  }
  /// The customers of a group in a cell.
  [[nodiscard]] const Observed& seen(const StepCell& cell, std::uint32_t group) const {
    return of_groups_[std::size_t{place_of(cell)} * groups_ + group].seen;
  }
  /// Of a pair that has a cell.
  [[nodiscard]] const StepTimes& times(std::uint32_t earlier, std::uint32_t later) const;

  /// Customers of a group who had not bought a product.
  [[nodiscard]] const Observed& of_group(std::uint32_t group, std::uint32_t product) const {
    return of_group_[group * products_ + product];
  }
  /// The same of all customers.
  [[nodiscard]] const Observed& of_all(std::uint32_t product) const { return of_all_[product]; }

  [[nodiscard]] std::uint64_t pairs_tested() const { return pairs_tested_; }
  [[nodiscard]] std::size_t pairs_found() const { return times_.size(); }

 private:
  void take(const std::vector<Step>& steps);
  void count_popularity(const mining::Histories& histories, const Landmarks& lookback,
                        const analysis::CustomerGroups& groups);

  std::size_t products_, groups_;
  std::vector<FittedCell::OfGroup> of_groups_;  ///< by cell, then group
  std::vector<std::uint32_t> begins_;           ///< by product and standing its first cell, and the end
  std::vector<StepCell> cells_;
  std::vector<StepTimes> times_;  ///< in order of the earlier and the later one
  std::vector<Observed> of_group_, of_all_;
  std::uint64_t pairs_tested_ = 0;
};

}  // namespace pear::recommender
