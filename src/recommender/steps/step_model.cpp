#include "recommender/steps/step_model.hpp"

#include <algorithm>
#include <utility>

namespace pear::recommender {
namespace {

bool has_uplift(const FittedCell& cell) {
  return std::any_of(cell.groups.begin(), cell.groups.end(),
                     [](const FittedCell::OfGroup& group) { return group.uplift > 0; });
}

}  // namespace

StepModel StepModel::build(const mining::Histories& histories, const std::vector<FittedStep>& fitted,
                           std::size_t groups) {
  StepModel model;
  model.groups_ = groups;
  std::vector<std::pair<std::uint32_t, std::uint32_t>> pairs;
  std::size_t next = 0;
  for (std::uint32_t earlier = 0; earlier < histories.counts.size(); ++earlier) {
    ByRecency<std::vector<std::pair<std::uint32_t, const FittedCell*>>> by_recency;
    for (; next < fitted.size() && fitted[next].earlier == earlier; ++next) {
      const FittedStep& step = fitted[next];
      for (const FittedCell& cell : step.cells)
        if (has_uplift(cell)) by_recency[cell.recency].emplace_back(step.later, &cell);
      if (std::any_of(step.cells.begin(), step.cells.end(), has_uplift))
        pairs.emplace_back(earlier, step.later);
    }
    for (const RecencyState recency : RecencyState::all()) {
      for (const auto& [later, cell] : by_recency[recency]) {
        model.cells_.push_back({later, recency, cell->observed});
        model.of_groups_.insert(model.of_groups_.end(), cell->groups.begin(), cell->groups.end());
      }
      model.begins_.push_back(static_cast<std::uint32_t>(model.cells_.size()));
    }
  }
  model.timings_ = time_steps(histories, pairs);
  return model;
}

StepTiming StepModel::timing(std::uint32_t earlier, std::uint32_t later) const {
  const std::pair pair(earlier, later);
  const auto found =
      std::lower_bound(timings_.begin(), timings_.end(), pair,
                       [](const StepTiming& a, const auto& b) { return std::pair(a.earlier, a.later) < b; });
  if (found == timings_.end() || std::pair(found->earlier, found->later) != pair) return {};
  return *found;
}

}  // namespace pear::recommender
