#include "questions/offers/backtest_finding.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/backtest_tables.hpp"

namespace pear::offers {
namespace {

/// The baselines whose hits do not differ significantly from those of the plan by probability, or are more.
std::vector<std::string> not_beaten(const recommender::Backtest& test) {
  std::vector<std::string> names;
  for (const recommender::TestedMethod& method : test.methods)
    if (method.baseline && !(method.depths[kHeadlineDepth].plan_advantage->interval.low > 0))
      names.push_back(method.name);
  return names;
}

std::string verdict(const recommender::Backtest& test) {
  const std::vector<std::string> level = not_beaten(test);
  if (level.empty()) return "Better than every baseline; the differences are significant.";
  for (const recommender::TestedMethod& method : test.methods) {
    if (!method.baseline || method.name != level.front()) continue;
    const recommender::Estimate& ahead = *method.depths[kHeadlineDepth].plan_advantage;
    const std::string difference = fmt::format("difference {:.3f} per customer, {:.3f} to {:.3f}",
                                               ahead.value, ahead.interval.low, ahead.interval.high);
    if (*method.baseline == recommender::BaselineMethod::best_sellers)
      return fmt::format(
          "The best sellers for everyone hit as often ({}): earlier purchases add no information.",
          difference);
    return fmt::format("Not significantly better than {} ({}).", join(level, " and "), difference);
  }
  return {};
}

std::string baselines_text(const recommender::Backtest& test) {
  std::vector<std::string> parts;
  for (const recommender::TestedMethod& method : test.methods)
    if (method.baseline)
      parts.push_back(
          fmt::format("{} {}", method.name, analysis::number(method.depths[kHeadlineDepth].hits)));
  return join(parts, ", ");
}

std::string held_out_text(const recommender::Backtest& test, std::int32_t horizon) {
  return fmt::format("{} days held out{}", horizon,
                     test.cuts.size() > 1 ? fmt::format(", {} times", test.cuts.size()) : "");
}

std::string found_sentence(const recommender::Backtest& test, const std::string& currency) {
  const recommender::TestedDepth& plan = test.as_asked().depths[kHeadlineDepth];
  const recommender::TestedMethod* best = nullptr;
  for (const recommender::TestedMethod& method : test.methods)
    if (method.baseline &&
        (best == nullptr || method.depths[kHeadlineDepth].found > best->depths[kHeadlineDepth].found))
      best = &method;
  const recommender::TestedDepth& baseline = best->depths[kHeadlineDepth];
  const statistics::Interval& ahead = baseline.plan_found_ahead->interval;
  return fmt::format("{}: {} {} found; {}: {}{}.", test.as_asked().name,
                     analysis::rounded_money_text(plan.found, currency),
                     test.has_margins ? "margin" : "sales", best->name,
                     analysis::rounded_money_text(baseline.found, currency),
                     ahead.low > 0 || ahead.high < 0 ? "" : " (the difference is not significant)");
}

result::Figure hits_figure(const recommender::Backtest& test, std::int32_t horizon) {
  using Row = recommender::TestedMethod;
  const auto depth = [](const Row& row) -> const recommender::TestedDepth& {
    return row.depths[kHeadlineDepth];
  };
  const std::string precision = analysis::per_cent(depth(test.by_probability()).precision.value);
  const std::vector<std::string> level = not_beaten(test);
  result::Figure figure;
  figure.part = "test";
  figure.title =
      level.empty()
          ? fmt::format("{} of the plan's first 3 offers hit, more than with any baseline", precision)
          : fmt::format("{} of the plan's first 3 offers hit, not significantly more than {}", precision,
                        join(level, " and "));
  figure.subtitle =
      fmt::format("Share of the first 3 offers that were bought, with 95% intervals; {}, {} customers",
                  held_out_text(test, horizon), analysis::number(test.customers));
  analysis::TableBuilder builder(figure.marks, test.methods);
  builder.text("method", "How offers were chosen.", [](const Row& row) { return row.name; });
  builder.share("precision", "Share of offers that hit.",
                [&](const Row& row) { return depth(row).precision.value; });
  builder.share("low", "Lower end of the interval.",
                [&](const Row& row) { return depth(row).precision.interval.low; });
  builder.share("high", "Upper end of the interval.",
                [&](const Row& row) { return depth(row).precision.interval.high; });
  builder.count("hits", "Hits.", [&](const Row& row) { return depth(row).hits; });
  result::IntervalChart chart;
  chart.label = "method";
  chart.value = "precision";
  chart.low = "low";
  chart.high = "high";
  chart.basis = chart.basis_title = "hits";
  chart.value_title = "offers that were bought";
  for (std::size_t method = 0; method < test.methods.size(); ++method)
    if (!test.methods[method].baseline) chart.noticed.push_back(method);
  figure.chart = std::move(chart);
  return figure;
}

result::Figure calibration_figure(const recommender::Backtest& test, std::int32_t horizon) {
  constexpr std::uint64_t kFewest = 30;  // pairs of a range that is drawn
  using Row = recommender::CalibrationGroup;
  std::vector<Row> rows = test.calibration;
  std::erase_if(rows, [](const Row& row) { return row.pairs < kFewest; });
  result::Figure figure;
  figure.part = "calibration";
  figure.title = calibration_title(test.calibration);
  figure.subtitle = fmt::format(
      "Probability of buying within {} days, stated and observed, by stated probability", horizon);
  analysis::TableBuilder builder(figure.marks, rows);
  builder.text("probability", "Stated probability.", [](const Row& row) {
    return fmt::format("{:.0f} to {:.0f}%: {} pairs", 100 * row.from, 100 * row.to,
                       analysis::number(row.pairs));
  });
  builder.share("stated", "Mean of the stated probabilities.", [](const Row& row) { return row.stated; });
  builder.share("observed", "Share who bought.", [](const Row& row) { return row.observed.value; });
  result::GroupedBarChart chart;
  chart.label = "probability";
  chart.series = {"stated", "observed"};
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace

std::string calibration_title(const std::vector<recommender::CalibrationGroup>& groups) {
  constexpr std::uint64_t kFewest = 500;  // pairs: with fewer, true probabilities differ by points as well
  const recommender::CalibrationGroup* worst = nullptr;
  const auto difference = [](const recommender::CalibrationGroup& group) {
    return std::abs(group.stated - group.observed.value);
  };
  for (const recommender::CalibrationGroup& group : groups)
    if (group.pairs >= kFewest && (worst == nullptr || difference(group) > difference(*worst)))
      worst = &group;
  if (worst == nullptr)
    return fmt::format("Too few pairs to compare stated and observed probabilities: no range has {}",
                       kFewest);
  const std::string points = fmt::format("{:.1f} points", 100 * difference(*worst));
  const statistics::Interval& interval = worst->observed.interval;
  if (worst->stated >= interval.low && worst->stated <= interval.high)
    return fmt::format(
        "Stated and observed probabilities differ by at most {} (ranges with {} pairs or more)", points,
        kFewest);
  return fmt::format("Stated probabilities are up to {} too {} (ranges with {} pairs or more)", points,
                     worst->stated > worst->observed.value ? "high" : "low", kFewest);
}

std::vector<std::string> backtest_headline(const recommender::Backtest& test,
                                           const analysis::QuestionInput& input, std::int32_t horizon) {
  const recommender::TestedDepth& plan = test.by_probability().depths[kHeadlineDepth];
  return {
      fmt::format(
          "{}: the plan's first 3 offers to each of {} customers hit {} times ({} of offers). Baselines: {}.",
          held_out_text(test, horizon), analysis::number(test.customers), analysis::number(plan.hits),
          analysis::per_cent(plan.precision.value), baselines_text(test)),
      verdict(test), found_sentence(test, input.currency)};
}

std::vector<result::Figure> backtest_figures(const recommender::Backtest& test, std::int32_t horizon) {
  return {hits_figure(test, horizon), calibration_figure(test, horizon)};
}

}  // namespace pear::offers
