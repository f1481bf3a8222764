#include "questions/offers/backtest_finding.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/backtest_tables.hpp"

namespace pear::offers {
namespace {

const recommender::TestedDepth& headline_depth(const recommender::TestedMethod& method) {
  return method.depths[kHeadlineDepth];
}

/// The baseline with most hits among those that the plan by probability does not beat significantly.
const recommender::TestedMethod* not_beaten(const recommender::KindBacktest& test) {
  const recommender::TestedMethod* best = nullptr;
  for (const recommender::TestedMethod& method : test.methods)
    if (method.baseline && !(headline_depth(method).plan_advantage->interval.low > 0) &&
        (best == nullptr || headline_depth(method).hits > headline_depth(*best).hits))
      best = &method;
  return best;
}

/// "significantly more than with any baseline (best sellers: 182)"
std::string verdict(const recommender::KindBacktest& test) {
  const auto named = [](const recommender::TestedMethod& method, const char* format) {
    return fmt::format(fmt::runtime(format), method.name, analysis::number(headline_depth(method).hits));
  };
  const recommender::TestedMethod* level = not_beaten(test);
  if (level == nullptr)
    return "significantly more than with any baseline " +
           named(test.best_baseline(kHeadlineDepth), "({}: {})");
  if (headline_depth(*level).plan_advantage->interval.high < 0)
    return "significantly fewer than with " + named(*level, "{} ({})");
  const bool is_for_everyone = *level->baseline == recommender::BaselineMethod::best_sellers;
  return "not significantly more than with " + named(*level, "{} ({})") +
         (is_for_everyone ? ": earlier purchases add no information" : "");
}

std::string kind_title(recommender::PurchaseKind kind) {
  return kind == recommender::PurchaseKind::new_product ? "New products" : "Repurchases";
}

std::string kind_sentence(const recommender::KindBacktest& test) {
  const recommender::TestedDepth& plan = headline_depth(test.plan_by_probability());
  const recommender::TestedMethod& best = test.best_baseline(kHeadlineDepth);
  if (plan.offers == 0)
    return fmt::format("{}: the plan offers none. Baseline {}: {} of the first 3 offers were bought.",
                       kind_title(test.kind), best.name, analysis::number(headline_depth(best).hits));
  return fmt::format("{}: {} of the plan's first 3 offers were bought ({}), {}.", kind_title(test.kind),
                     analysis::number(plan.hits), analysis::per_cent(plan.precision.value), verdict(test));
}

std::string held_out_text(const recommender::Backtest& test, std::int32_t horizon) {
  return fmt::format("{} days held out{}", horizon,
                     test.cuts.size() > 1 ? fmt::format(", {} times", test.cuts.size()) : "");
}

std::string found_sentence(const recommender::Backtest& test, const std::string& currency) {
  const recommender::KindBacktest& of_new = test.kinds[0];
  const recommender::TestedDepth& plan = headline_depth(of_new.plan_as_asked());
  const recommender::TestedMethod* best = nullptr;
  for (const recommender::TestedMethod& method : of_new.methods)
    if (method.baseline && (best == nullptr || headline_depth(method).found > headline_depth(*best).found))
      best = &method;
  const statistics::Interval& ahead = headline_depth(*best).plan_found_ahead->interval;
  return fmt::format("{}: {} {} found with new products; {}: {}{}.", of_new.plan_as_asked().name,
                     analysis::rounded_money_text(plan.found, currency),
                     test.has_margins ? "margin" : "sales", best->name,
                     analysis::rounded_money_text(headline_depth(*best).found, currency),
                     ahead.low > 0 || ahead.high < 0 ? "" : " (the difference is not significant)");
}

result::Figure hits_figure(const recommender::Backtest& test, const recommender::KindBacktest& of_kind,
                           std::int32_t horizon) {
  using Row = recommender::TestedMethod;
  const bool is_new = of_kind.kind == recommender::PurchaseKind::new_product;
  const double possible = static_cast<double>(headline_depth(of_kind.methods.front()).first);
  result::Figure figure;
  figure.part = is_new ? "test" : "repurchases";
  figure.title = kind_sentence(of_kind);
  figure.subtitle =
      fmt::format("Share of three offers per customer that were bought, with 95% intervals; {}, {} customers",
                  held_out_text(test, horizon), analysis::number(test.customers));
  std::vector<Row> rows = of_kind.methods;
  std::erase_if(rows, [](const Row& row) { return headline_depth(row).offers == 0; });
  analysis::TableBuilder builder(figure.marks, rows);
  builder.text("method", "How offers were chosen.", [](const Row& row) { return row.name; });
  const auto share = [&](const char* name, const char* what, auto of) {
    builder.share(name, what,
                  [possible, of](const Row& row) { return of(headline_depth(row).per_customer) / possible; });
  };
  using recommender::Estimate;
  share("share", "Hits / three offers per customer.", [](const Estimate& each) { return each.value; });
  share("low", "Lower end of the interval.", [](const Estimate& each) { return each.interval.low; });
  share("high", "Upper end of the interval.", [](const Estimate& each) { return each.interval.high; });
  builder.count("hits", "Hits.", [](const Row& row) { return headline_depth(row).hits; });
  result::IntervalChart chart;
  chart.label = "method";
  chart.value = "share";
  chart.low = "low";
  chart.high = "high";
  chart.basis = chart.basis_title = "hits";
  chart.value_title = "offers that were bought";
  for (std::size_t method = 0; method < rows.size(); ++method)
    if (!rows[method].baseline) chart.noticed.push_back(method);
  figure.chart = std::move(chart);
  return figure;
}

/// Nothing if no range has enough pairs.
std::optional<result::Figure> calibration_figure(const recommender::KindBacktest& test,
                                                 std::int32_t horizon) {
  constexpr std::uint64_t kFewest = 30;  // pairs of a range that is drawn
  using Row = recommender::CalibrationGroup;
  std::vector<Row> rows = test.by_probability;
  std::erase_if(rows, [](const Row& row) { return row.pairs < kFewest; });
  if (rows.empty()) return {};
  const bool is_new = test.kind == recommender::PurchaseKind::new_product;
  result::Figure figure;
  figure.part = is_new ? "calibration" : "calibration-repurchases";
  figure.title = kind_title(test.kind) + ": " + calibration_title(test);
  figure.subtitle = fmt::format(
      "Probability of buying within {} days, stated and observed, by stated probability", horizon);
  analysis::TableBuilder builder(figure.marks, rows);
  builder.text("probability", "Stated probability.", [](const Row& row) {
    return fmt::format("{:.0f} to {:.0f}%: {}", 100 * row.from, 100 * row.to, counted(row.pairs, "pair"));
  });
  builder.share("stated", "Mean of the stated probabilities.", [](const Row& row) { return row.stated; });
  builder.share("observed", "Share who bought.", [](const Row& row) { return row.observed.value; });
  result::GroupedBarChart chart;
  chart.label = "probability";
  chart.series = {"stated", "observed"};
  figure.chart = std::move(chart);
  return figure;
}

/// Which method to plan with, if a baseline is better; otherwise empty.
std::string advice(const recommender::KindBacktest& test) {
  const recommender::TestedMethod* level = not_beaten(test);
  if (level == nullptr || !(headline_depth(*level).plan_advantage->interval.high < 0)) return "";
  return fmt::format(" To plan with it: --method {}.", recommender::word_of(*level->baseline));
}

}  // namespace

std::string calibration_title(const recommender::KindBacktest& test) {
  double stated = 0, bought = 0;
  const recommender::CalibrationGroup* worst = nullptr;  // by ratio, among thirds of customers
  const auto distance = [](const recommender::CalibrationGroup& group) {
    return std::abs(std::log(group.ratio.value));
  };
  for (const recommender::CalibrationGroup& group : test.by_purchases) {
    if (group.pairs == 0) continue;
    stated += group.stated * static_cast<double>(group.pairs);
    bought += static_cast<double>(group.bought);
    const statistics::Interval& ratio = group.ratio.interval;
    if (group.bought > 0 && (ratio.low > 1 || ratio.high < 1) &&
        (worst == nullptr || distance(group) > distance(*worst)))
      worst = &group;
  }
  const std::string total = fmt::format("{} purchases stated, {} observed",
                                        analysis::number(static_cast<std::uint64_t>(std::llround(stated))),
                                        analysis::number(static_cast<std::uint64_t>(bought)));
  if (worst == nullptr) return total + "; no third of the customers differs significantly";
  return fmt::format("{}; customers with {}: {:.2f} times as many stated as observed", total,
                     third_text(*worst), worst->ratio.value);
}

std::vector<std::string> backtest_headline(const recommender::Backtest& test,
                                           const analysis::QuestionInput& input) {
  return {kind_sentence(test.kinds[0]) + advice(test.kinds[0]),
          kind_sentence(test.kinds[1]) + advice(test.kinds[1]), found_sentence(test, input.currency)};
}

std::vector<result::Figure> backtest_figures(const recommender::Backtest& test, std::int32_t horizon) {
  std::vector<result::Figure> figures;
  for (const recommender::KindBacktest& kind : test.kinds) {
    figures.push_back(hits_figure(test, kind, horizon));
    if (auto calibration = calibration_figure(kind, horizon)) figures.push_back(std::move(*calibration));
  }
  return figures;
}

}  // namespace pear::offers
