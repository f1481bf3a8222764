#include "recommender/backtest.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <utility>

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "daybook/purchases.hpp"
#include "recommender/segment_choice.hpp"
#include "statistics/bootstrap.hpp"

namespace pear::recommender {
namespace {

constexpr std::array<std::size_t, 3> kDepths = {1, 3, 5};
/// Narrow where most probabilities are.
constexpr std::array<double, 11> kProbabilityBounds = {0, 0.01, 0.02, 0.05, 0.1, 0.2, 0.3, 0.4, 0.6, 0.8, 1};
constexpr std::size_t kProbabilityGroups = kProbabilityBounds.size() - 1;
constexpr double kProbabilityUnits = 1e9;  ///< probabilities are added as integers, in any order

/// A product that a customer bought within the horizon, and its value.
struct Bought {
  std::uint32_t product = 0;
  std::int64_t found = 0;
};

/// Sums for one group of customers: integers, so their order does not matter.
struct Sums {
  struct Depth {
    std::int64_t offers = 0, hits = 0, found = 0;
  };
  struct Probabilities {
    std::int64_t pairs = 0, bought = 0, stated = 0;
  };
  std::int64_t customers = 0, bought = 0;
  std::vector<std::array<Depth, 3>> methods;
  std::array<Probabilities, kProbabilityGroups> probabilities{};

  void add(const Sums& other, std::int64_t times = 1) {
    customers += other.customers * times, bought += other.bought * times;
    for (std::size_t method = 0; method < methods.size(); ++method)
      for (std::size_t depth = 0; depth < kDepths.size(); ++depth) {
        Depth& sum = methods[method][depth];
        const Depth& more = other.methods[method][depth];
        sum.offers += more.offers * times, sum.hits += more.hits * times, sum.found += more.found * times;
      }
    for (std::size_t group = 0; group < kProbabilityGroups; ++group) {
      probabilities[group].pairs += other.probabilities[group].pairs * times;
      probabilities[group].bought += other.probabilities[group].bought * times;
      probabilities[group].stated += other.probabilities[group].stated * times;
    }
  }
};

/// One cut: the plan based on what was known then, and its outcome.
class Fold {
 public:
  Fold(const analysis::QuestionInput& input, const mining::Histories& known, const PurchaseModel& model,
       const BacktestRules& rules, std::size_t groups)
      : daybook_(input.daybook),
        purchases_(input.daybook),
        model_(model),
        rules_(rules),
        by_probability_(rules.constraints),
        baselines_(known, model.groups, rules.constraints.allowed),
        groups_(groups),
        own_([this, &known] {
          return Own{Scorer(model_, known, by_probability_),
                     Scorer(model_, known, rules_.constraints),
                     empty_sums(groups_, rules_),
                     {},
                     {},
                     {}};
        }) {
    by_probability_.rank_by = RankBy::probability;
    if (const daybook::Column* margin = input.daybook.find("margin"))
      margins_ = std::get<daybook::DecimalValues>(margin->values).units;
  }

  static std::vector<Sums> empty_sums(std::size_t groups, const BacktestRules& rules) {
    Sums none;
    none.methods.resize(kBaselineMethods.size() + (rules.constraints.rank_by == RankBy::probability ? 1 : 2));
    return std::vector<Sums>(groups, none);
  }

  void score(const std::vector<std::uint8_t>& planned, std::vector<Sums>& into) {
    tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, daybook_.customers(), 2048), [&](const auto& run) {
      Own& own = own_.local();
      for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
        if (planned[customer] != 0) score(customer, own);
    });
    for (const Own& own : own_)
      for (std::size_t group = 0; group < groups_; ++group) into[group].add(own.sums[group]);
  }

 private:
  struct Own {
    Scorer by_probability, as_asked;
    std::vector<Sums> sums;
    std::vector<Bought> bought;
    std::vector<Offer> offers;
    std::vector<std::uint32_t> products;
  };

  void score(std::uint32_t customer, Own& own) {
    const std::vector<Offer>& candidates = own.by_probability.score(customer);
    if (candidates.empty()) return;
    find_bought(customer, own.bought);
    Sums& sums = own.sums[customer % groups_];
    ++sums.customers;
    for (const Offer& offer : candidates) {
      const bool is_bought = what_of(offer.product, own.bought) != nullptr;
      auto& probabilities = sums.probabilities[probability_group(offer.probability)];
      ++probabilities.pairs;
      probabilities.bought += is_bought ? 1U : 0U;
      probabilities.stated += std::llround(offer.probability * kProbabilityUnits);
      sums.bought += is_bought ? 1U : 0U;
    }
    std::size_t method = 0;
    score_plan(customer, own.by_probability, own, sums.methods[method++]);
    if (rules_.constraints.rank_by != RankBy::probability)
      score_plan(customer, own.as_asked, own, sums.methods[method++]);
    for (const BaselineMethod baseline : kBaselineMethods) {
      baselines_.choose(baseline, customer, kDepths.back(), own.products);
      score_products(own, sums.methods[method++]);
    }
  }

  void score_plan(std::uint32_t customer, Scorer& scorer, Own& own,
                  std::array<Sums::Depth, 3>& depths) const {
    own.offers.clear();
    scorer.best(customer, kDepths.back(), own.offers);
    own.products.clear();
    for (const Offer& offer : own.offers) own.products.push_back(offer.product);
    score_products(own, depths);
  }

  static void score_products(const Own& own, std::array<Sums::Depth, 3>& depths) {
    for (std::size_t i = 0; i < own.products.size(); ++i) {
      const Bought* bought = what_of(own.products[i], own.bought);
      for (std::size_t depth = 0; depth < kDepths.size(); ++depth) {
        if (i >= kDepths[depth]) continue;
        ++depths[depth].offers;
        if (bought == nullptr) continue;
        ++depths[depth].hits;
        depths[depth].found += bought->found;
      }
    }
  }

  static const Bought* what_of(std::uint32_t product, const std::vector<Bought>& bought) {
    const auto found = std::find_if(bought.begin(), bought.end(),
                                    [&](const Bought& each) { return each.product == product; });
    return found == bought.end() ? nullptr : &*found;
  }

  static std::size_t probability_group(double chance) {
    const auto above = std::upper_bound(kProbabilityBounds.begin(), kProbabilityBounds.end() - 1, chance);
    return static_cast<std::size_t>(above - kProbabilityBounds.begin()) - 1;
  }

  void find_bought(std::uint32_t customer, std::vector<Bought>& bought) const {
    bought.clear();
    const std::int32_t cut = model_.landmarks.as_of.days;
    const auto days = daybook_.order_days();
    const daybook::Run orders = daybook_.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      if (days[order] <= cut || days[order] > cut + model_.landmarks.horizon) continue;
      const daybook::Run lines = daybook_.lines_of(order);
      for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
        if (purchases_.is_return(line)) continue;
        const std::uint32_t product = daybook_.line_products()[line];
        auto found = std::find_if(bought.begin(), bought.end(),
                                  [&](const Bought& each) { return each.product == product; });
        if (found == bought.end()) found = bought.insert(found, {product, 0});
        const std::int64_t brought = margins_.empty() ? daybook_.amounts()[line] : margins_[line];
        if (brought != daybook::kEmptyUnits) found->found += brought;
      }
    }
  }

  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  const PurchaseModel& model_;
  const BacktestRules& rules_;
  Constraints by_probability_;
  Baselines baselines_;
  std::size_t groups_;
  std::span<const std::int64_t> margins_;
  tbb::enumerable_thread_specific<Own> own_;
};

/// Figures computed from sums over groups of customers, with intervals over resamples of the groups.
class Estimator {
 public:
  explicit Estimator(const std::vector<Sums>& groups) : all_(groups.front()) {
    const statistics::Resamples resamples(groups.size());
    for (std::size_t group = 1; group < groups.size(); ++group) all_.add(groups[group]);
    Sums none;
    none.methods.resize(all_.methods.size());
    drawn_.assign(statistics::Resamples::kTimes, none);
    tbb::parallel_for(std::size_t{0}, statistics::Resamples::kTimes, [&](std::size_t resample) {
      const auto times = resamples.times(resample);
      for (std::size_t group = 0; group < groups.size(); ++group)
        if (times[group] > 0) drawn_[resample].add(groups[group], times[group]);
    });
  }

  [[nodiscard]] const Sums& all() const { return all_; }

  template <class Figure>
  [[nodiscard]] Estimate of(const Figure& figure) const {
    std::vector<double> values;
    for (const Sums& drawn : drawn_)
      if (const double value = figure(drawn); std::isfinite(value)) values.push_back(value);
    return {figure(all_), statistics::percentile_interval(values)};
  }

 private:
  Sums all_;
  std::vector<Sums> drawn_;
};

double ratio(std::int64_t part, std::int64_t whole) {
  return static_cast<double>(part) / static_cast<double>(whole);
}

TestedDepth tested(const Estimator& estimator, std::size_t method, std::size_t depth, std::size_t input,
                   bool is_baseline) {
  TestedDepth result;
  const Sums::Depth& all = estimator.all().methods[method][depth];
  result.first = kDepths[depth];
  result.offers = static_cast<std::uint64_t>(all.offers);
  result.hits = static_cast<std::uint64_t>(all.hits);
  result.found = all.found;
  const auto of = [&](const Sums& sums) -> const Sums::Depth& { return sums.methods[method][depth]; };
  const auto hits = [&](const Sums& sums) { return ratio(of(sums).hits, sums.customers); };
  const auto found = [&](const Sums& sums) { return ratio(of(sums).found, sums.customers); };
  result.per_customer = estimator.of(hits);
  result.precision = estimator.of([&](const Sums& sums) { return ratio(of(sums).hits, of(sums).offers); });
  result.recall = estimator.of([&](const Sums& sums) { return ratio(of(sums).hits, sums.bought); });
  result.found_per_customer = estimator.of(found);
  if (!is_baseline) return result;
  result.plan_advantage = estimator.of(
      [&](const Sums& sums) { return ratio(sums.methods[0][depth].hits - of(sums).hits, sums.customers); });
  result.plan_found_ahead = estimator.of([&](const Sums& sums) {
    return ratio(sums.methods[input][depth].found - of(sums).found, sums.customers);
  });
  return result;
}

std::string name_of(BaselineMethod baseline, const std::string& group) {
  if (baseline == BaselineMethod::best_sellers) return "best sellers";
  if (baseline == BaselineMethod::companions) return "bought together with the last order";
  return group.empty() ? "best sellers of the group" : "best sellers of the " + group;
}

void summarise(const std::vector<Sums>& groups, const BacktestRules& rules, const std::string& group,
               Backtest& test) {
  const Estimator estimator(groups);
  test.customers = static_cast<std::uint64_t>(estimator.all().customers);
  test.bought = static_cast<std::uint64_t>(estimator.all().bought);
  test.methods.push_back({"plan by probability", {}, {}});
  if (rules.constraints.rank_by != RankBy::probability)
    test.methods.push_back(
        {rules.constraints.rank_by == RankBy::margin ? "plan by margin" : "plan by amount", {}, {}});
  const std::size_t input = test.methods.size() - 1;
  for (const BaselineMethod baseline : kBaselineMethods)
    test.methods.push_back({name_of(baseline, group), baseline, {}});
  for (std::size_t method = 0; method < test.methods.size(); ++method)
    for (std::size_t depth = 0; depth < kDepths.size(); ++depth)
      test.methods[method].depths[depth] =
          tested(estimator, method, depth, input, test.methods[method].baseline.has_value());
  for (std::size_t i = 0; i < kProbabilityGroups; ++i) {
    const Sums::Probabilities& probabilities = estimator.all().probabilities[i];
    CalibrationGroup each{kProbabilityBounds[i],
                          kProbabilityBounds[i + 1],
                          static_cast<std::uint64_t>(probabilities.pairs),
                          static_cast<std::uint64_t>(probabilities.bought),
                          std::nan(""),
                          {}};
    if (probabilities.pairs > 0)
      each.stated = static_cast<double>(probabilities.stated) / kProbabilityUnits /
                    static_cast<double>(probabilities.pairs);
    each.observed = estimator.of(
        [&](const Sums& sums) { return ratio(sums.probabilities[i].bought, sums.probabilities[i].pairs); });
    test.calibration.push_back(each);
  }
}

}  // namespace

OrError<Backtest> run_backtest(const analysis::QuestionInput& input, const expression::LineView& lines,
                               const mining::Histories& histories, const BacktestRules& rules,
                               const std::vector<std::uint8_t>& planned) {
  Backtest test;
  test.cuts = rules.cuts;
  test.has_margins = input.daybook.find("margin") != nullptr;
  const std::size_t groups =
      std::min<std::size_t>(statistics::Resamples::kMostGroups, input.daybook.customers());
  std::vector<Sums> sums = Fold::empty_sums(groups, rules);
  const Categories categories = categories_of(input.daybook);
  std::string group_name;
  const std::size_t folds = rules.cuts.size();
  for (std::size_t fold = 0; fold < folds; ++fold) {
    const mining::Histories known = known_by(histories, rules.cuts[fold]);
    PEAR_ASSIGN(Landmarks landmarks,
                choose_landmarks(*input.population.first_date, rules.cuts[fold], rules.horizon, rules.active,
                                 input.daybook.customers()));
    PEAR_ASSIGN(const analysis::CustomerGroups buyers, choose_segments(rules.group, lines, known));
    group_name = buyers.is_split() ? buyers.noun() : "";
    const PurchaseModel model = fit_purchase_model(
        input.daybook, rules.from_selection ? of_chosen(known, planned) : known, std::move(landmarks), buyers,
        categories, analysis::part_of(input.progress, 100 * fold / folds, 100 * (fold + 1) / folds));
    Fold(input, known, model, rules, groups).score(planned, sums);
  }
  summarise(sums, rules, group_name, test);
  return test;
}

}  // namespace pear::recommender
