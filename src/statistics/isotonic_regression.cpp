#include "statistics/isotonic_regression.hpp"

#include <algorithm>
#include <utility>

#include "statistics/quantile.hpp"

namespace pear::statistics {
namespace {

struct Weighted {
  double value = 0;
  std::uint64_t weight = 0;
};

/// Neighbouring groups with a common level.
struct Block {
  std::int64_t begins = 0;
  std::vector<Weighted> medians;  ///< of its groups, in order of value
  double level = 0;

  void set_level() {
    std::uint64_t all = 0;
    for (const Weighted& each : medians) all += each.weight;
    std::uint64_t rest = quantile_rank(all, kHalf);
    std::size_t place = 0;
    while (medians[place].weight < rest) rest -= medians[place++].weight;
    level = medians[place].value;
  }

  void take_in(const Block& later) {
    std::vector<Weighted> both;
    std::merge(medians.begin(), medians.end(), later.medians.begin(), later.medians.end(),
               std::back_inserter(both),
               [](const Weighted& a, const Weighted& b) { return a.value < b.value; });
    medians = std::move(both);
    set_level();
  }
};

Block group_of(const std::vector<Observation>& sorted, std::size_t begin, std::size_t end) {
  std::vector<double> values;
  values.reserve(end - begin);
  for (std::size_t i = begin; i < end; ++i) values.push_back(sorted[i].y);
  const double median = *quantile_of(values, kHalf);
  return {sorted[begin].x, {{median, end - begin}}, median};
}

/// The ends of groups: each has at least this many observations, and equal x stay together.
std::vector<std::size_t> group_ends(const std::vector<Observation>& sorted, FitGroups groups) {
  const std::size_t least =
      std::max({std::size_t{1}, groups.fewest, (sorted.size() + groups.most - 1) / groups.most});
  std::vector<std::size_t> ends;
  for (std::size_t begin = 0; begin < sorted.size();) {
    std::size_t end = std::min(sorted.size(), begin + least);
    while (end < sorted.size() && sorted[end].x == sorted[end - 1].x) ++end;
    ends.push_back(end);
    begin = end;
  }
  if (ends.size() > 1 && ends.back() - ends[ends.size() - 2] < least) ends.erase(ends.end() - 2);
  return ends;
}

}  // namespace

FallingSteps::FallingSteps(std::vector<Step> steps) : steps_(std::move(steps)) {}

double FallingSteps::at(std::int64_t x) const {
  const auto after =
      std::upper_bound(steps_.begin(), steps_.end(), x,
                       [](std::int64_t value, const Step& step) { return value < step.begins; });
  return after == steps_.begin() ? after->level : (after - 1)->level;
}

FallingSteps isotonic_regression(std::vector<Observation>& observations, FitGroups groups) {
  std::sort(observations.begin(), observations.end(),
            [](const Observation& a, const Observation& b) { return a.x != b.x ? a.x < b.x : a.y < b.y; });
  std::vector<Block> blocks;
  std::size_t begin = 0;
  for (const std::size_t end : group_ends(observations, groups)) {
    blocks.push_back(group_of(observations, begin, end));
    begin = end;
    while (blocks.size() > 1 && blocks[blocks.size() - 2].level < blocks.back().level) {
      const Block later = std::move(blocks.back());
      blocks.pop_back();
      blocks.back().take_in(later);
    }
  }
  std::vector<FallingSteps::Step> steps;
  for (const Block& block : blocks)
    if (steps.empty() || steps.back().level != block.level) steps.push_back({block.begins, block.level});
  return FallingSteps(std::move(steps));
}

}  // namespace pear::statistics
