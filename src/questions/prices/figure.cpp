#include "questions/prices/figure.hpp"

#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "analysis/find_member.hpp"
#include "analysis/tables/table_builder.hpp"
#include "base/text.hpp"
#include "questions/prices/finding.hpp"

namespace pear::prices {
namespace {

constexpr std::size_t kMostBars = 15;

/// Customers as bars of money.
template <class Money>
result::Figure bars(const Counts& counts, const std::vector<const CustomerPrices*>& shown,
                    const Money& money_of, std::vector<std::size_t> noticed) {
  result::Figure figure;
  analysis::TableBuilder builder(figure.marks, shown);
  builder.text("customer", "The customer.", [&](const CustomerPrices* each) {
    return analysis::member_title(counts.daybook(), daybook::Level::customer, each->customer);
  });
  builder.rounded_money("gap", "Money.", [&](const CustomerPrices* each) { return money_of(*each); });
  result::RankedBarChart chart;
  chart.label = "customer";
  chart.value = "gap";
  chart.value_title = counts.input.currency.empty() ? "money" : counts.input.currency;
  chart.noticed = std::move(noticed);
  figure.chart = std::move(chart);
  return figure;
}

/// Customers with the largest gap; the unexplained ones are highlighted.
result::Figure gap_figure(const Counts& counts, const std::vector<const CustomerPrices*>& largest) {
  std::vector<std::size_t> noticed;
  for (std::size_t i = 0; i < largest.size(); ++i)
    if (largest[i]->reason == PriceReason::unexplained) noticed.push_back(i);
  const bool any = !noticed.empty();
  result::Figure figure = bars(
      counts, largest, [](const CustomerPrices& each) { return each.gap; }, std::move(noticed));
  figure.title = largest_gap(counts, *largest.front()) + ".";
  figure.subtitle = fmt::format(
      "Customers with the largest gap between what they paid and {}",
      counts.options.against == Against::others ? "what others pay for the same" : counts.compared_with());
  if (any) figure.subtitle += "; ochre: volume does not explain it";
  return figure;
}

result::Figure unexplained_figure(const Counts& counts, std::vector<const CustomerPrices*> unexplained) {
  const auto missed = [](const CustomerPrices& each) {
    return static_cast<std::int64_t>(std::llround(each.at_expected - each.judged_amount));
  };
  std::stable_sort(unexplained.begin(), unexplained.end(),
                   [&](const auto* a, const auto* b) { return missed(*a) > missed(*b); });
  const std::size_t all = unexplained.size();
  unexplained.resize(std::min(all, kMostBars));
  result::Figure figure = bars(counts, unexplained, missed, {});
  figure.part = "unexplained";
  figure.title = unexplained_sentence(counts);
  figure.subtitle = fmt::format("Amount they paid less than customers with the same volume{}",
                                all > kMostBars ? fmt::format("; the {} largest of {}", kMostBars, all) : "");
  return figure;
}

std::vector<result::Figure> customer_figures(const Counts& counts) {
  std::vector<const CustomerPrices*> largest, unexplained;
  for (const CustomerPrices& each : *counts.customers) {
    if (each.gap > 0 && largest.size() < kMostBars) largest.push_back(&each);
    if (each.reason == PriceReason::unexplained) unexplained.push_back(&each);
  }
  std::vector<result::Figure> figures;
  if (!largest.empty()) figures.push_back(gap_figure(counts, largest));
  if (!unexplained.empty()) figures.push_back(unexplained_figure(counts, std::move(unexplained)));
  return figures;
}

/// Customers who pay least for their quantity, of those for whom most orders show it.
std::vector<std::uint32_t> notable_pairs(const Counts& counts, daybook::Run run) {
  std::set<std::uint32_t> unexplained;
  for (const CustomerPrices& each : *counts.customers)
    if (each.reason == PriceReason::unexplained) unexplained.insert(each.customer);
  const PriceComparison& levels = *counts.levels;
  std::vector<std::uint32_t> pairs;
  for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
    if (levels.is_low(pair) && unexplained.contains(levels.paid()[pair].customer)) pairs.push_back(pair);
  std::stable_sort(pairs.begin(), pairs.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return levels.gap(a) > levels.gap(b); });
  return pairs;
}

/// A customer of the product, and whether their name is shown.
struct PricePoint {
  std::uint32_t pair = 0;
  bool is_named = false;
};

result::Figure scatter(const Counts& counts) {
  constexpr std::size_t kMostNamed = 8;
  const PriceComparison& levels = *counts.levels;
  const daybook::Run run = levels.paid().of_product(*counts.product);
  const std::vector<std::uint32_t> notable = notable_pairs(counts, run);
  result::ScatterChart chart;
  std::vector<PricePoint> points;
  for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
    if (std::find(notable.begin(), notable.end(), pair) == notable.end()) points.push_back({pair, false});
  for (std::size_t i = 0; i < notable.size(); ++i) {
    chart.noticed.push_back(points.size());
    points.push_back({notable[i], i < kMostNamed});
  }
  result::Figure figure;
  figure.title = product_headline(counts).back();
  figure.subtitle =
      fmt::format("{}, {}; darker: several at one point{}",
                  analysis::member_title(counts.daybook(), daybook::Level::product, *counts.product),
                  counted(run.size(), "customer"), notable.empty() ? "" : "; ochre: pay less in most orders");
  analysis::TableBuilder builder(figure.marks, points);
  builder.text("customer", "The customer, if named.", [&](const PricePoint& point) {
    return point.is_named ? analysis::member_title(counts.daybook(), daybook::Level::customer,
                                                   levels.paid()[point.pair].customer)
                          : "";
  });
  builder.share("index", "Amount divided by the price of the time.",
                [&](const PricePoint& point) { return levels.time_index(point.pair); });
  builder.integer(result::Unit::number, "quantity", "Pieces.",
                  [&](const PricePoint& point) { return levels.paid()[point.pair].quantity; });
  chart.label = "customer";
  chart.along = "quantity";
  chart.value = "index";
  for (const statistics::FallingSteps::Step& step : levels.product(*counts.product).expected.steps())
    chart.steps.push_back({static_cast<double>(step.begins) / Decimal::kScale, step.level});
  chart.reference = 1;
  chart.reference_label = "usual at this quantity";
  chart.label_title = "total pieces bought";
  chart.value_title = "price paid, as a share of the price at the time";
  figure.chart = std::move(chart);
  return figure;
}

result::Figure month_bars(const Counts& counts) {
  const auto price = [&](const MonthPrices& month) {
    return money(counts, static_cast<double>(month.average));
  };
  const MonthPrices &first = counts.months.front(), &last = counts.months.back();
  result::Figure figure;
  figure.part = "months";
  figure.title = counts.months.size() < 2
                     ? fmt::format("Average price {}.", price(first))
                     : fmt::format("Average price {} in {}, {} in {}.", price(first), to_text(first.month),
                                   price(last), to_text(last.month));
  figure.subtitle =
      fmt::format("{}; average price per piece, by month",
                  analysis::member_title(counts.daybook(), daybook::Level::product, *counts.product));
  analysis::TableBuilder builder(figure.marks, counts.months);
  builder.text("month", "The month.", [](const MonthPrices& month) { return to_text(month.month); });
  builder.rounded_money("average_price", "Average price per piece.",
                        [](const MonthPrices& month) { return month.average; });
  result::BarChart chart;
  chart.label = "month";
  chart.value = "average_price";
  chart.axis = result::LabelAxis::months;
  chart.value_title =
      counts.input.currency.empty() ? "average price" : "average price, " + counts.input.currency;
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace

std::vector<result::Figure> figures_of(const Counts& counts) {
  if (!counts.product) return customer_figures(counts);
  if (!counts.has_tests) return {month_bars(counts)};
  return {scatter(counts), month_bars(counts)};
}

}  // namespace pear::prices
