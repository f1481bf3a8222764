// The plan backtested on held-out sales.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/date.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "recommender/baselines.hpp"
#include "recommender/plan.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::recommender {

/// A figure and its 95% bootstrap interval, over groups of customers.
struct Estimate {
  double value = 0;
  statistics::Interval interval;
};

/// A method at a depth: its first offers to each customer, this many.
struct TestedDepth {
  std::size_t first = 0;
  std::uint64_t offers = 0, hits = 0;  ///< a hit: the customer bought the product within the horizon
  std::int64_t found = 0;              ///< margin (or amount, without costs) of the hits, in units of Decimal
  Estimate per_customer, precision, recall, found_per_customer;
  std::optional<Estimate> plan_advantage;  ///< hits per customer of the plan by probability, minus these
  std::optional<Estimate>
      plan_found_ahead;  ///< value per customer found by the plan in the ranking asked for, minus this
};

struct TestedMethod {
  std::string name;
  std::optional<BaselineMethod> baseline;  ///< none: the plan itself
  std::array<TestedDepth, 3> depths;
};

/// Pairs of a customer and a product with about the same stated probability.
struct CalibrationGroup {
  double from = 0, to = 1;
  std::uint64_t pairs = 0, bought = 0;
  double stated = 0;  ///< the mean
  Estimate observed;
};

struct Backtest {
  std::vector<Date> cuts;       ///< the last day that each plan knew
  std::uint64_t customers = 0;  ///< customers planned for, over all cuts
  std::uint64_t bought = 0;     ///< products that they bought for the first time within the horizon
  std::vector<TestedMethod> methods;
  std::vector<CalibrationGroup> calibration;
  bool has_margins = false;

  [[nodiscard]] const TestedMethod& by_probability() const { return methods.front(); }
  /// Ranked as asked.
  [[nodiscard]] const TestedMethod& as_asked() const {
    return methods[methods.size() > 1 && !methods[1].baseline ? 1 : 0];
  }
};

struct BacktestRules {
  std::int32_t horizon = 90, active = 365;
  std::vector<Date> cuts;
  std::optional<expression::Tree> group;
  Constraints constraints;      ///< what is allowed, and how offers are ranked
  bool from_selection = false;  ///< fitted to planned customers only
};

/// Plans at each cut from what was known then, and scores the plan and the baselines on what was bought
/// within the horizon. `planned` has 1 for customers who may be planned for. Error: data, if there is too
/// little data before a cut.
[[nodiscard]] OrError<Backtest> run_backtest(const analysis::QuestionInput& input,
                                             const expression::LineView& lines,
                                             const mining::Histories& histories, const BacktestRules& rules,
                                             const std::vector<std::uint8_t>& planned);

}  // namespace pear::recommender
