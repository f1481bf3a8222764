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

/// Pairs of a customer and a product with about the same stated probability, or of customers who bought about
/// as much.
struct CalibrationGroup {
  double from = 0, to = 1;  ///< stated probabilities; or the customers' place by purchases, as shares
  std::uint64_t pairs = 0, bought = 0;
  double stated = 0;  ///< the mean probability
  Estimate observed;
  Estimate ratio;  ///< stated / observed
};

/// The backtest of one kind of purchase.
struct KindBacktest {
  PurchaseKind kind = PurchaseKind::new_product;
  std::uint64_t bought = 0;  ///< allowed products of this kind that customers bought within the horizon
  std::vector<TestedMethod> methods;
  std::vector<CalibrationGroup> by_probability;
  std::array<CalibrationGroup, 3> by_purchases;  ///< thirds of the customers by purchases so far

  [[nodiscard]] const TestedMethod& plan_by_probability() const { return methods.front(); }
  /// Ranked as asked.
  [[nodiscard]] const TestedMethod& plan_as_asked() const {
    return methods[methods.size() > 1 && !methods[1].baseline ? 1 : 0];
  }
  /// The one with most hits at a depth.
  [[nodiscard]] const TestedMethod& best_baseline(std::size_t depth) const;
};

struct Backtest {
  std::vector<Date> cuts;       ///< the last day that each plan knew
  std::uint64_t customers = 0;  ///< customers planned for, over all cuts
  std::array<KindBacktest, 2> kinds;
  std::vector<TestedMethod> plans;  ///< of both kinds together, as customers get them
  bool has_margins = false;
};

struct BacktestRules {
  std::int32_t horizon = 90, active = 365;
  std::vector<Date> cuts;
  std::optional<expression::Tree> group;
  Constraints constraints;  ///< what is allowed, and how offers are ranked
};

/// Plans at each cut from what was known then, and scores the plan and the baselines on what was bought
/// within the horizon: separately for new products and for repurchases, because their baselines differ.
/// `planned` has 1 for customers who may be planned for. Error: data, if there is too little data before a
/// cut.
[[nodiscard]] OrError<Backtest> run_backtest(const analysis::QuestionInput& input,
                                             const expression::LineView& lines,
                                             const mining::Histories& histories, const BacktestRules& rules,
                                             const std::vector<std::uint8_t>& planned);

}  // namespace pear::recommender
