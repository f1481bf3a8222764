#include "recommender/backtest.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <utility>

#include <tbb/parallel_for.h>

#include "daybook/columns/derived_columns.hpp"
#include "recommender/backtest_fold.hpp"
#include "recommender/segment_choice.hpp"
#include "statistics/bootstrap.hpp"

namespace pear::recommender {
namespace {

/// Figures computed from sums over groups of customers, with intervals over resamples of the groups.
class Estimator {
 public:
  Estimator(const std::vector<BacktestSums>& groups, const BacktestRules& rules)
      : all_(rules), drawn_(statistics::Resamples::kTimes, BacktestSums(rules)) {
    const statistics::Resamples resamples(groups.size());
    for (const BacktestSums& group : groups) all_.add(group);
    tbb::parallel_for(std::size_t{0}, statistics::Resamples::kTimes, [&](std::size_t resample) {
      const auto times = resamples.times(resample);
      for (std::size_t group = 0; group < groups.size(); ++group)
        if (times[group] > 0) drawn_[resample].add(groups[group], times[group]);
    });
  }

  [[nodiscard]] const BacktestSums& all() const { return all_; }

  template <class Figure>
  [[nodiscard]] Estimate of(const Figure& figure) const {
    std::vector<double> values;
    for (const BacktestSums& drawn : drawn_)
      if (const double value = figure(drawn); std::isfinite(value)) values.push_back(value);
    return {figure(all_), statistics::percentile_interval(values)};
  }

 private:
  BacktestSums all_;
  std::vector<BacktestSums> drawn_;
};

double ratio(std::int64_t part, std::int64_t whole) {
  return static_cast<double>(part) / static_cast<double>(whole);
}

/// The sums of one method.
using DepthsOf = std::function<const BacktestSums::Depths&(const BacktestSums&)>;

TestedDepth tested(const Estimator& estimator, const DepthsOf& of_method, std::size_t depth,
                   const std::function<std::int64_t(const BacktestSums&)>& bought) {
  TestedDepth result;
  const auto of = [&](const BacktestSums& sums) -> const BacktestSums::Depth& {
    return of_method(sums)[depth];
  };
  const BacktestSums::Depth& all = of(estimator.all());
  result.first = kDepths[depth];
  result.offers = static_cast<std::uint64_t>(all.offers);
  result.hits = static_cast<std::uint64_t>(all.hits);
  result.found = all.found;
  result.per_customer =
      estimator.of([&](const BacktestSums& sums) { return ratio(of(sums).hits, sums.customers); });
  result.precision =
      estimator.of([&](const BacktestSums& sums) { return ratio(of(sums).hits, of(sums).offers); });
  result.recall = estimator.of([&](const BacktestSums& sums) { return ratio(of(sums).hits, bought(sums)); });
  result.found_per_customer =
      estimator.of([&](const BacktestSums& sums) { return ratio(of(sums).found, sums.customers); });
  return result;
}

std::vector<TestedMethod> plans_of(const BacktestRules& rules) {
  std::vector<TestedMethod> plans = {{"plan by probability", {}, {}}};
  if (rules.constraints.rank_by != RankBy::probability)
    plans.push_back(
        {rules.constraints.rank_by == RankBy::margin ? "plan by margin" : "plan by amount", {}, {}});
  return plans;
}

KindBacktest backtest_of(PurchaseKind kind, const Estimator& estimator, const BacktestRules& rules,
                         const std::string& group) {
  KindBacktest test;
  test.kind = kind;
  const auto place = static_cast<std::size_t>(kind);
  const auto bought = [place](const BacktestSums& sums) { return sums.kinds[place].bought; };
  test.bought = static_cast<std::uint64_t>(bought(estimator.all()));
  test.methods = plans_of(rules);
  const std::size_t as_asked = test.methods.size() - 1;
  for (const BaselineMethod baseline : baselines_of(kind))
    test.methods.push_back({name_of(baseline, group), baseline, {}});
  for (std::size_t method = 0; method < test.methods.size(); ++method) {
    const auto depths_of = [place](std::size_t of) -> DepthsOf {
      return [place, of](const BacktestSums& sums) -> const BacktestSums::Depths& {
        return sums.kinds[place].methods[of];
      };
    };
    for (std::size_t depth = 0; depth < kDepths.size(); ++depth) {
      TestedDepth& result = test.methods[method].depths[depth];
      result = tested(estimator, depths_of(method), depth, bought);
      if (!test.methods[method].baseline) continue;
      result.plan_advantage = estimator.of([&](const BacktestSums& sums) {
        return ratio(depths_of(0)(sums)[depth].hits - depths_of(method)(sums)[depth].hits, sums.customers);
      });
      result.plan_found_ahead = estimator.of([&](const BacktestSums& sums) {
        return ratio(depths_of(as_asked)(sums)[depth].found - depths_of(method)(sums)[depth].found,
                     sums.customers);
      });
    }
  }
  return test;
}

/// `of`: the sums of the group.
CalibrationGroup calibration_of(
    double from, double to, const Estimator& estimator,
    const std::function<const BacktestSums::Probabilities&(const BacktestSums&)>& of) {
  const BacktestSums::Probabilities& all = of(estimator.all());
  CalibrationGroup group{
      from, to, static_cast<std::uint64_t>(all.pairs), static_cast<std::uint64_t>(all.bought), std::nan(""),
      {},   {}};
  if (all.pairs > 0) group.stated = ratio(all.stated, all.pairs) / kProbabilityUnits;
  group.observed =
      estimator.of([&](const BacktestSums& sums) { return ratio(of(sums).bought, of(sums).pairs); });
  group.ratio = estimator.of(
      [&](const BacktestSums& sums) { return ratio(of(sums).stated, of(sums).bought) / kProbabilityUnits; });
  return group;
}

void add_calibration(const Estimator& estimator, KindBacktest& test) {
  const auto place = static_cast<std::size_t>(test.kind);
  for (std::size_t i = 0; i < kProbabilityGroups; ++i)
    test.by_probability.push_back(calibration_of(
        kProbabilityBounds[i], kProbabilityBounds[i + 1], estimator,
        [ place,
          i ](const BacktestSums& sums) -> const auto& { return sums.kinds[place].by_probability[i]; }));
  for (std::size_t third = 0; third < test.by_purchases.size(); ++third)
    test.by_purchases[third] = calibration_of(
        static_cast<double>(third) / 3, static_cast<double>(third + 1) / 3, estimator,
        [ place,
          third ](const BacktestSums& sums) -> const auto& { return sums.kinds[place].by_purchases[third]; });
}

}  // namespace

const TestedMethod& KindBacktest::best_baseline(std::size_t depth) const {
  const TestedMethod* best = nullptr;
  for (const TestedMethod& method : methods)
    if (method.baseline && (best == nullptr || method.depths[depth].hits > best->depths[depth].hits))
      best = &method;
  return *best;
}

OrError<Backtest> run_backtest(const analysis::QuestionInput& input, const expression::LineView& lines,
                               const mining::Histories& histories, const BacktestRules& rules,
                               const std::vector<std::uint8_t>& planned) {
  Backtest test;
  test.cuts = rules.cuts;
  test.has_margins = !daybook::known_margins(input.daybook).empty();
  const std::size_t groups =
      std::min<std::size_t>(statistics::Resamples::kMostGroups, input.daybook.customers());
  std::vector<BacktestSums> sums(groups, BacktestSums(rules));
  const Categories categories = categories_of(input.daybook);
  std::string group_name;
  KnownParts parts;
  const std::size_t folds = rules.cuts.size();
  for (std::size_t fold = 0; fold < folds; ++fold) {
    const mining::Histories known = known_by(histories, rules.cuts[fold]);
    PEAR_ASSIGN(const Landmarks landmarks,
                choose_landmarks(*input.population.first_date, rules.cuts[fold], rules.horizon, rules.active,
                                 input.daybook.customers()));
    PEAR_ASSIGN(const analysis::CustomerGroups buyers, choose_segments(rules.group, lines, known));
    group_name = buyers.is_split() ? buyers.noun() : "";
    const OfferModel model = fit_offer_model(
        input.daybook, known, *input.population.first_date, landmarks, buyers, categories,
        analysis::part_of(input.progress, 100 * fold / folds, 100 * (fold + 1) / folds), &parts);
    BacktestFold(input, known, model, rules).score(planned, sums);
  }
  const Estimator estimator(sums, rules);
  test.customers = static_cast<std::uint64_t>(estimator.all().customers);
  for (const PurchaseKind kind : kPurchaseKinds) {
    KindBacktest& own = test.kinds[static_cast<std::size_t>(kind)];
    own = backtest_of(kind, estimator, rules, group_name);
    add_calibration(estimator, own);
  }
  test.plans = plans_of(rules);
  for (std::size_t method = 0; method < test.plans.size(); ++method)
    for (std::size_t depth = 0; depth < kDepths.size(); ++depth)
      test.plans[method].depths[depth] = tested(
          estimator,
          [method](const BacktestSums& each) -> const BacktestSums::Depths& { return each.plans[method]; },
          depth, [](const BacktestSums& each) { return each.kinds[0].bought + each.kinds[1].bought; });
  return test;
}

}  // namespace pear::recommender
