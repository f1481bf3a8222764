#include "questions/retention/figure.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "base/text.hpp"
#include "questions/retention/tables.hpp"

namespace pear::retention {
namespace {

constexpr std::size_t kMostRows = 24;
constexpr std::size_t kMostColumns = 13;
constexpr std::size_t kMostCurves = 6;

/// The cohorts that have finished a period after the first order's.
std::vector<const Cohort*> drawn_cohorts(const Counts& counts) {
  std::vector<const Cohort*> drawn;
  for (const Cohort& cohort : counts.cohorts)
    if (cohort.cells.size() > 1) drawn.push_back(&cohort);
  return drawn;
}

result::Figure heat_map(const Counts& counts, const std::vector<std::string>& headline) {
  std::vector<const Cohort*> cohorts = drawn_cohorts(counts);
  const bool are_many = cohorts.size() > kMostRows;
  if (are_many) cohorts.erase(cohorts.begin(), cohorts.end() - kMostRows);
  cohorts.push_back(&counts.all);
  result::Figure figure;
  figure.title = headline.front();
  figure.subtitle =
      fmt::format("Share of the customers who ordered, by {} since the first order; cohorts by {}{}",
                  counts.options.period.noun(), counts.cohort_noun(), are_many ? ", the newest ones" : "");
  result::HeatMap chart;
  analysis::TableBuilder builder(figure.marks, cohorts);
  builder.text(chart.label = "label", "The cohort.", [](const Cohort* cohort) { return cohort->label; });
  for (std::size_t period = 1; period < std::min(counts.periods(), kMostColumns); ++period) {
    std::vector<double> shares;
    for (const Cohort* cohort : cohorts)
      shares.push_back(period < cohort->cells.size()
                           ? share_of(cohort->cells[period].ordered, cohort->cells[period].customers)
                           : std::numeric_limits<double>::quiet_NaN());
    const std::string title = std::to_string(period);
    chart.series.push_back(
        analysis::add_series(figure.marks, title, result::share_column("", title, std::move(shares))));
  }
  chart.value_title = "share of the customers who ordered";
  figure.chart = std::move(chart);
  return figure;
}

/// Cohorts at even distances. Not all together: its average changes with the cohorts that have finished a
/// period.
std::vector<const Cohort*> curves_of(const Counts& counts) {
  const std::vector<const Cohort*> drawn = drawn_cohorts(counts);
  std::vector<const Cohort*> curves;
  const std::size_t shown = std::min(kMostCurves, drawn.size());
  for (std::size_t i = 0; i < shown; ++i) curves.push_back(drawn[i * drawn.size() / shown]);
  return curves;
}

result::Figure amounts(const Counts& counts, const std::string& title) {
  result::Figure figure;
  figure.part = "amounts";
  figure.title = title;
  figure.subtitle =
      fmt::format("Amount per customer from the first order to the end of each {}; cohorts by {}",
                  counts.options.period.noun(), counts.cohort_noun());
  result::LineChart chart;
  const analysis::NumberedRows periods{counts.periods()};
  analysis::TableBuilder builder(figure.marks, periods);
  builder.text(chart.label = "label", "The period.",
               [](std::size_t period) { return std::to_string(period); });
  for (const Cohort* cohort : curves_of(counts)) {
    std::vector<std::int64_t> values;
    for (std::size_t period = 0; period < counts.periods(); ++period)
      values.push_back(period < cohort->cells.size() ? per_customer(cohort->cells[period].amount_so_far,
                                                                    cohort->cells[period].customers)
                                                     : result::kEmptyCell);
    chart.series.push_back(analysis::add_series(
        figure.marks, cohort->label,
        result::integer_column("", result::Unit::money, cohort->label, std::move(values))));
  }
  chart.axis = result::LabelAxis::categories;
  chart.label_title = counts.options.period.name() + " since the first order";
  chart.value_title = "amount per customer";
  chart.series_in_order = counts.is_time();
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace

std::vector<result::Figure> figures_of(const Counts& counts, const std::vector<std::string>& headline) {
  if (drawn_cohorts(counts).empty()) return {};
  return {heat_map(counts, headline), amounts(counts, headline.back())};
}

}  // namespace pear::retention
