// The test of offers: its tables, headline and figures.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "analysis/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/finding.hpp"

namespace pear::offers {
namespace {

constexpr std::size_t kAtThree = 1;  ///< of the depths, the one that is told of

std::string per_cent_of(double share) { return fmt::format("{:.1f}%", 100 * share); }

/// The rivals that found about as much as the plan by chance, or more, as far as can be told.
std::vector<std::string> not_beaten(const recommender::Backtest& test) {
  std::vector<std::string> names;
  for (const recommender::TestedMethod& method : test.methods)
    if (method.rival && !(method.depths[kAtThree].plan_ahead->interval.low > 0)) names.push_back(method.name);
  return names;
}

std::string verdict(const recommender::Backtest& test) {
  const std::vector<std::string> level = not_beaten(test);
  if (level.empty()) return "More than every rival, and that is no chance.";
  for (const recommender::TestedMethod& method : test.methods) {
    if (!method.rival || method.name != level.front()) continue;
    const recommender::Estimate& ahead = *method.depths[kAtThree].plan_ahead;
    const std::string difference = fmt::format("difference {:.3f} a customer, {:.3f} to {:.3f}", ahead.value,
                                               ahead.interval.low, ahead.interval.high);
    if (*method.rival == recommender::BaselineKind::best_sellers)
      return fmt::format(
          "Offering everybody the best sellers finds as much ({}): nothing is to be gained from "
          "what customers bought before.",
          difference);
    return fmt::format("Not surely more than {} ({}).", join(level, " and "), difference);
  }
  return {};
}

std::string rivals_told(const recommender::Backtest& test) {
  std::vector<std::string> parts;
  for (const recommender::TestedMethod& method : test.methods)
    if (method.rival)
      parts.push_back(fmt::format("{} {}", method.name, analysis::number(method.depths[kAtThree].hits)));
  return join(parts, ", ");
}

std::string held_back(const recommender::Backtest& test, std::int32_t horizon) {
  return fmt::format("{} days held back{}", horizon,
                     test.cuts.size() > 1 ? fmt::format(", {} times", test.cuts.size()) : "");
}

std::string found_sentence(const recommender::Backtest& test, const analysis::QuestionInput& asked) {
  const auto money = [&](std::int64_t units) {
    const std::string text = with_thousands(Decimal::from_units(units), 2);
    return asked.currency.empty() ? text : text + " " + asked.currency;
  };
  const recommender::TestedDepth& plan = test.as_asked().depths[kAtThree];
  const recommender::TestedMethod* best = nullptr;
  for (const recommender::TestedMethod& method : test.methods)
    if (method.rival && (best == nullptr || method.depths[kAtThree].found > best->depths[kAtThree].found))
      best = &method;
  const recommender::TestedDepth& rival = best->depths[kAtThree];
  const statistics::Interval& ahead = rival.plan_found_ahead->interval;
  return fmt::format("{}: {} {} found; {}: {}{}.", test.as_asked().name, money(plan.found),
                     test.has_margins ? "margin" : "sales", best->name, money(rival.found),
                     ahead.low > 0 || ahead.high < 0 ? "" : " (within chance of one another)");
}

void add_estimate(analysis::RowColumns<const recommender::TestedDepth*>& columns, const std::string& name,
                  const std::string& what, bool is_share,
                  const std::function<recommender::Estimate(const recommender::TestedDepth&)>& of) {
  const auto add = [&](const std::string& column, const std::string& description, auto part) {
    const auto value = [&](const recommender::TestedDepth* depth) { return part(of(*depth)); };
    if (is_share)
      columns.share(column, description, value);
    else
      columns.whole(column, result::Unit::number, description,
                    [&](const recommender::TestedDepth* depth) { return analysis::in_units(value(depth)); });
  };
  add(name, what, [](const recommender::Estimate& each) { return each.value; });
  add(name + "_low", "Lower end of its 95% interval.",
      [](const recommender::Estimate& each) { return each.interval.low; });
  add(name + "_high", "Upper end of its 95% interval.",
      [](const recommender::Estimate& each) { return each.interval.high; });
}

}  // namespace

result::Table backtest_table(const recommender::Backtest& test) {
  result::Table table{"",
                      "Plan and rivals",
                      "One row for each way to choose offers, and the first 1, 3 and 5 to each customer.",
                      {}};
  TextArray names;
  std::vector<const recommender::TestedDepth*> rows;
  for (std::size_t depth = 0; depth < 3; ++depth)
    for (const recommender::TestedMethod& method : test.methods) {
      names.push_back(method.name);
      rows.push_back(&method.depths[depth]);
    }
  table.columns.push_back(result::text_column("method", "How offers were chosen.", std::move(names)));
  analysis::RowColumns<const recommender::TestedDepth*> columns(rows, table.columns);
  using Depth = const recommender::TestedDepth*;
  columns
      .whole("first", result::Unit::count, "The first so many offers to each customer.",
             [](Depth row) { return row->first; })
      .always_shown = true;
  columns.whole("offers", result::Unit::count, "Offers made.", [](Depth row) { return row->offers; });
  columns
      .whole("hits", result::Unit::count, "Offers of what the customer bought within the horizon.",
             [](Depth row) { return row->hits; })
      .always_shown = true;
  add_estimate(columns, "hits_per_customer", "hits by customers.", false,
               [](const recommender::TestedDepth& row) { return row.per_customer; });
  add_estimate(columns, "precision", "hits by offers.", true,
               [](const recommender::TestedDepth& row) { return row.precision; });
  add_estimate(columns, "recall",
               "hits by all first (or due) purchases of these customers within the horizon.", true,
               [](const recommender::TestedDepth& row) { return row.recall; });
  const std::string found = test.has_margins ? "margin" : "amount";
  columns
      .whole(found + "_found", result::Unit::money, "What the hits brought.",
             [](Depth row) { return row->found; })
      .always_shown = true;
  add_estimate(columns, found + "_per_customer", "The same by customers.", false,
               [](const recommender::TestedDepth& row) {
                 const auto in_money = [](double units) { return units / Decimal::kScale; };
                 const recommender::Estimate& of = row.found_per_customer;
                 return recommender::Estimate{in_money(of.value),
                                              {in_money(of.interval.low), in_money(of.interval.high)}};
               });
  add_estimate(columns, "plan_ahead",
               "Hits per customer of the plan by chance beyond these; empty for the plan.", false,
               [](const recommender::TestedDepth& row) {
                 const double none = std::nan("");
                 return row.plan_ahead.value_or(recommender::Estimate{none, {none, none}});
               });
  for (result::TableColumn& column : table.columns)
    if (column.name == "hits_per_customer" || column.name == "plan_ahead") column.always_shown = true;
  for (result::TableColumn& column : table.columns)
    if (column.unit == result::Unit::number) column.places = 3;
  return table;
}

result::Table calibration_table(const recommender::Backtest& test) {
  result::Table table{
      "calibration",
      "Chances said and seen",
      "One row for each range of stated chances: pairs of a customer and a product that could be offered.",
      {}};
  const auto& rows = test.calibration;
  analysis::RowColumns<recommender::CalibrationGroup> columns(rows, table.columns);
  using Row = recommender::CalibrationGroup;
  columns.share("chance_from", "Stated chances from here,", [](const Row& row) { return row.from; })
      .always_shown = true;
  columns.share("chance_to", "to below here.", [](const Row& row) { return row.to; }).always_shown = true;
  columns.whole("pairs", result::Unit::count, "Pairs of which such a chance was stated.",
                [](const Row& row) { return row.pairs; });
  columns.whole("bought", result::Unit::count, "Of these, those bought within the horizon.",
                [](const Row& row) { return row.bought; });
  columns.share("stated", "Mean of the stated chances.", [](const Row& row) { return row.stated; })
      .always_shown = true;
  columns
      .share("observed", "bought by pairs.",
             [](const Row& row) { return row.pairs == 0 ? std::nan("") : row.observed.value; })
      .always_shown = true;
  columns.share("observed_low", "Lower end of its 95% interval.",
                [](const Row& row) { return row.observed.interval.low; });
  columns.share("observed_high", "Upper end of its 95% interval.",
                [](const Row& row) { return row.observed.interval.high; });
  return table;
}

std::vector<std::string> backtest_headline(const recommender::Backtest& test,
                                           const analysis::QuestionInput& asked, std::int32_t horizon) {
  const recommender::TestedDepth& plan = test.by_chance().depths[kAtThree];
  return {
      fmt::format("{}: the plan's first 3 offers to each of {} customers hit {} times ({} of offers); {}.",
                  held_back(test, horizon), analysis::number(test.customers), analysis::number(plan.hits),
                  per_cent_of(plan.precision.value), rivals_told(test)),
      verdict(test), found_sentence(test, asked)};
}

std::vector<result::Figure> backtest_figures(const recommender::Backtest& test, std::int32_t horizon) {
  result::Figure hits;
  hits.part = "test";
  hits.kind = result::Figure::Kind::intervals;
  const recommender::TestedDepth& plan = test.by_chance().depths[kAtThree];
  const std::vector<std::string> level = not_beaten(test);
  hits.title = level.empty() ? fmt::format("{} of the plan's first 3 offers hit, more than of any rival's",
                                           per_cent_of(plan.precision.value))
                             : fmt::format("{} of the plan's first 3 offers hit; not surely more than {}",
                                           per_cent_of(plan.precision.value), join(level, " and "));
  hits.subtitle =
      fmt::format("Share of the first 3 offers that were bought, with 95% intervals; {}, {} customers",
                  held_back(test, horizon), analysis::number(test.customers));
  TextArray names;
  std::vector<double> share, low, high;
  std::vector<std::int64_t> counts;
  for (const recommender::TestedMethod& method : test.methods) {
    const recommender::TestedDepth& depth = method.depths[kAtThree];
    names.push_back(method.name);
    share.push_back(depth.precision.value);
    low.push_back(depth.precision.interval.low), high.push_back(depth.precision.interval.high);
    counts.push_back(static_cast<std::int64_t>(depth.hits));
    if (!method.rival) hits.noticed.push_back(counts.size() - 1);
  }
  hits.marks.columns = {result::text_column("method", "How offers were chosen.", std::move(names)),
                        result::share_column("precision", "Share that hit.", std::move(share)),
                        result::share_column("low", "Lower end.", std::move(low)),
                        result::share_column("high", "Upper end.", std::move(high)),
                        result::integer_column("hits", result::Unit::count, "Hits.", std::move(counts))};
  hits.interval = {2, 3};
  hits.totals = 4;
  hits.label_title = "hits";
  hits.value_title = "offers that were bought";

  result::Figure calibration;
  calibration.part = "calibration";
  calibration.kind = result::Figure::Kind::grouped_bars;
  TextArray ranges;
  std::vector<double> stated, observed;
  double largest = 0;
  constexpr std::uint64_t kFewest = 30;
  for (const recommender::CalibrationGroup& group : test.calibration) {
    if (group.pairs < kFewest) continue;
    ranges.push_back(fmt::format("{:.0f} to {:.0f}%: {} pairs", 100 * group.from, 100 * group.to,
                                 analysis::number(group.pairs)));
    stated.push_back(group.stated), observed.push_back(group.observed.value);
    if (group.pairs >= 500) largest = std::max(largest, std::abs(group.stated - group.observed.value));
  }
  calibration.title = fmt::format(
      "What is said comes true: within {:.1f} points wherever 500 pairs or more were judged", 100 * largest);
  calibration.subtitle =
      fmt::format("Chance to buy within {} days, as stated and as seen, by stated chance", horizon);
  calibration.marks.columns = {result::text_column("chance", "Stated chance.", std::move(ranges)),
                               result::share_column("stated", "Mean of what was stated.", std::move(stated)),
                               result::share_column("seen", "Share that bought.", std::move(observed))};
  calibration.values = {1, 2};
  calibration.marks_in_order = false;
  return {hits, calibration};
}

}  // namespace pear::offers
