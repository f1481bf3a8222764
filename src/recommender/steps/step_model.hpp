// The steps of the plan, by the product that a customer has bought.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "recommender/recency.hpp"
#include "recommender/steps/step_timing.hpp"
#include "recommender/steps/step_uplift.hpp"

namespace pear::recommender {

/// The exposures of one recency state to a step with an uplift.
struct StepCell {
  std::uint32_t later = 0;
  RecencyState recency;
  Observed observed;
};

/// The fitted steps that have an uplift.
class StepModel {
 public:
  /// `fitted` in order of the earlier and the later product. O(entries) on all threads, for the days between
  /// purchases.
  [[nodiscard]] static StepModel build(const mining::Histories& histories,
                                       const std::vector<FittedStep>& fitted, std::size_t groups);

  /// What a product triggers for customers in that recency state towards it, in order of the later product.
  [[nodiscard]] std::span<const StepCell> after(std::uint32_t earlier, RecencyState recency) const {
    const std::size_t place = earlier * RecencyState::kCount + recency.index();
    return std::span(cells_).subspan(begins_[place], begins_[place + 1] - begins_[place]);
  }
  [[nodiscard]] const StepCell& cell(std::uint32_t place) const { return cells_[place]; }
  [[nodiscard]] std::uint32_t place_of(const StepCell& cell) const {
    return static_cast<std::uint32_t>(&cell - cells_.data());
  }
  /// The share of a group's customers in a cell who buy because of the step, among those who would not have
  /// bought without it.
  [[nodiscard]] double uplift(const StepCell& cell, std::uint32_t group) const {
    return of_group(cell, group).uplift;
  }
  /// The exposures of a group in a cell.
  [[nodiscard]] const Observed& observed(const StepCell& cell, std::uint32_t group) const {
    return of_group(cell, group).observed;
  }
  /// Of a pair that has a cell; without purchases for any other pair.
  [[nodiscard]] StepTiming timing(std::uint32_t earlier, std::uint32_t later) const;
  /// Pairs with a cell.
  [[nodiscard]] std::size_t steps() const { return timings_.size(); }

 private:
  [[nodiscard]] const FittedCell::OfGroup& of_group(const StepCell& cell, std::uint32_t group) const {
    return of_groups_[std::size_t{place_of(cell)} * groups_ + group];
  }

  std::size_t groups_ = 1;
  std::vector<FittedCell::OfGroup> of_groups_;  ///< by cell, then group
  std::vector<std::uint32_t> begins_{0};        ///< by product and recency state its first cell, and the end
  std::vector<StepCell> cells_;
  std::vector<StepTiming> timings_;  ///< in order of the earlier and the later product
};

}  // namespace pear::recommender
