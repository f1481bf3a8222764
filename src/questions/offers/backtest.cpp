#include "questions/offers/backtest.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/tables/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/backtest_finding.hpp"
#include "questions/offers/backtest_tables.hpp"
#include "questions/offers/constraints.hpp"
#include "recommender/backtest.hpp"

namespace pear::offers {
namespace {

constexpr std::int64_t kFolds = 3;

/// The last days that are known to each plan, the latest first: as many as the data has room for.
OrError<std::vector<Date>> cuts_of(const analysis::QuestionInput& input, const Options& options, Date as_of) {
  std::vector<Date> cuts;
  const auto horizon = static_cast<std::int32_t>(*options.test);
  for (std::int64_t fold = 1; fold <= options.folds.value_or(kFolds); ++fold) {
    const Date cut{as_of.days - static_cast<std::int32_t>(fold) * horizon};
    const auto landmarks =
        recommender::choose_landmarks(*input.population.first_date, cut, horizon,
                                      static_cast<std::int32_t>(options.active), input.daybook.customers());
    if (!landmarks && (cuts.empty() || options.folds))
      return data_error(fmt::format(
          "too little is known before {} to plan from it: {} Use a smaller --test, or fewer --folds.",
          to_text(Date{cut.days + 1}), landmarks.error().message));
    if (!landmarks) break;
    cuts.push_back(cut);
  }
  return cuts;
}

OrError<recommender::BacktestRules> rules_of(const analysis::QuestionInput& input, const Options& options,
                                             Date as_of) {
  recommender::BacktestRules rules;
  rules.horizon = static_cast<std::int32_t>(*options.test);
  rules.active = static_cast<std::int32_t>(options.active);
  rules.group = options.per;
  PEAR_ASSIGN(rules.constraints, constraints_of(input, options));
  rules.constraints.min_probability = 0;
  PEAR_ASSIGN(rules.cuts, cuts_of(input, options, as_of));
  return rules;
}

std::string dates_text(const std::vector<Date>& dates) {
  std::vector<std::string> texts;
  for (const Date date : dates) texts.push_back(to_text(date));
  return join(texts, ", ");
}

result::Check check_of(const recommender::Backtest& test) {
  bool fits = true;
  std::uint64_t all = 0;
  for (const recommender::KindBacktest& kind : test.kinds) {
    std::uint64_t pairs = 0, bought = 0, of_thirds = 0;
    for (const recommender::CalibrationGroup& group : kind.by_probability) {
      pairs += group.pairs;
      bought += group.bought;
    }
    for (const recommender::CalibrationGroup& third : kind.by_purchases) of_thirds += third.pairs;
    all += pairs;
    // Customers also buy new products that are not among the likeliest.
    fits = fits && of_thirds == pairs && bought <= kind.bought;
    for (const recommender::TestedMethod& method : kind.methods)
      for (const recommender::TestedDepth& depth : method.depths)
        fits = fits && depth.hits <= depth.offers && depth.offers <= depth.first * test.customers;
  }
  return {fmt::format(
              "the thirds of the customers add up to all {} with a stated probability; no method has more "
              "hits than offers",
              counted(all, "pair")),
          fits};
}

}  // namespace

OrError<result::Result> ask_backtest(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Date as_of, planning_day(input, options));
  PEAR_ASSIGN(const recommender::BacktestRules rules, rules_of(input, options, as_of));
  const expression::GroupKey products = analysis::id_key(input.daybook, daybook::Level::product);
  const mining::Histories histories = histories_until(input, products, as_of);
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(const recommender::Backtest test,
              recommender::run_backtest(input, lines, histories, rules, planned_of(input)));
  if (test.customers == 0)
    return data_error(
        "none of the customers was active on a day from which the plan is backtested. Use a larger "
        "--active.");
  const std::string cuts = dates_text(test.cuts);
  result::Result result;
  result.headline = backtest_headline(test, input);
  result.tables = {backtest_table(test), calibration_table(test), customer_calibration_table(test)};
  result.tables.front().part = "test";
  result.figures = backtest_figures(test, rules.horizon);
  result.definitions = {
      {"held out", fmt::format("{} after each of {}", analysis::days_text(rules.horizon), cuts)},
      {"hit", "an offered product that the customer bought within these days"},
      {"intervals", "95%: bootstrap over up to 200 groups of customers, 1,000 times"}};
  result.checks = {check_of(test)};
  result.notes.push_back(
      fmt::format("{} held out after each of {}: {} planned for in all. Plans and baselines used only what "
                  "was known then.",
                  analysis::days_text(rules.horizon), cuts, counted(test.customers, "customer")));
  result.notes.emplace_back(
      "Baselines choose from the same products as the plan: those the customer has not bought, or, for "
      "repurchases, those bought before.");
  if (!options.folds && test.cuts.size() < kFolds)
    result.notes.push_back(fmt::format("The data has room for only {}.", counted(test.cuts.size(), "cut")));
  note_choice(input, result);
  return result;
}

}  // namespace pear::offers
