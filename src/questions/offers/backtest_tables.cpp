#include "questions/offers/backtest_tables.hpp"

#include <cmath>
#include <functional>

#include "analysis/tables/table_builder.hpp"

namespace pear::offers {
namespace {

struct BacktestRow {
  const recommender::TestedMethod& method;
  const recommender::TestedDepth& depth;
};
using Builder = analysis::TableBuilder<std::vector<BacktestRow>>;
using EstimateOf = std::function<recommender::Estimate(const recommender::TestedDepth&)>;

/// A column of an estimate, and two for its interval, by any of the builder's functions.
template <class Add>
void add_estimate(const std::string& name, const std::string& what, const EstimateOf& of, const Add& add) {
  add(name, what, [&](const BacktestRow& row) { return of(row.depth).value; });
  add(name + "_low", "Lower end of its 95% interval.",
      [&](const BacktestRow& row) { return of(row.depth).interval.low; });
  add(name + "_high", "Upper end of its 95% interval.",
      [&](const BacktestRow& row) { return of(row.depth).interval.high; });
}
void add_number(Builder& builder, const std::string& name, const std::string& what, const EstimateOf& of) {
  constexpr int kPlaces = 3;
  add_estimate(name, what, of,
               [&](const std::string& column, const std::string& description, const auto& value) {
                 builder.number(column, description, kPlaces, value);
               });
}
void add_share(Builder& builder, const std::string& name, const std::string& what, const EstimateOf& of) {
  add_estimate(name, what, of,
               [&](const std::string& column, const std::string& description, const auto& value) {
                 builder.share(column, description, value);
               });
}

/// From units of Decimal.
recommender::Estimate in_money(const recommender::Estimate& units) {
  const auto money = [](double value) { return value / Decimal::kScale; };
  return {money(units.value), {money(units.interval.low), money(units.interval.high)}};
}

recommender::Estimate or_none(const std::optional<recommender::Estimate>& estimate) {
  const double none = std::nan("");
  return estimate.value_or(recommender::Estimate{none, {none, none}});
}

}  // namespace

result::Table backtest_table(const recommender::Backtest& test) {
  std::vector<BacktestRow> rows;
  for (std::size_t depth = 0; depth < 3; ++depth)
    for (const recommender::TestedMethod& method : test.methods)
      rows.push_back({method, method.depths[depth]});
  result::Table table{"",
                      "Plan and baselines",
                      "One row for each method, and the first 1, 3 and 5 offers to each customer.",
                      {}};
  Builder builder(table, rows);
  const std::string found = test.has_margins ? "margin" : "amount";
  builder.text("method", "How offers were chosen.", [](const BacktestRow& row) { return row.method.name; });
  builder
      .count("first", "The first offers to each customer, this many.",
             [](const BacktestRow& row) { return row.depth.first; })
      .always_shown = true;
  builder.count("offers", "Offers made.", [](const BacktestRow& row) { return row.depth.offers; });
  builder
      .count("hits", "Offers of what the customer bought within the horizon.",
             [](const BacktestRow& row) { return row.depth.hits; })
      .always_shown = true;
  add_number(builder, "hits_per_customer", "hits / customers.",
             [](const recommender::TestedDepth& depth) { return depth.per_customer; });
  add_share(builder, "precision", "hits / offers.",
            [](const recommender::TestedDepth& depth) { return depth.precision; });
  add_share(builder, "recall", "hits / all first (or due) purchases of these customers within the horizon.",
            [](const recommender::TestedDepth& depth) { return depth.recall; });
  builder
      .money(found + "_found", "The value of the hits.",
             [](const BacktestRow& row) { return row.depth.found; })
      .always_shown = true;
  add_number(builder, found + "_per_customer", "The same per customer.",
             [](const recommender::TestedDepth& depth) { return in_money(depth.found_per_customer); });
  add_number(builder, "plan_advantage",
             "Hits per customer of the plan by probability, minus these; empty for the plan.",
             [](const recommender::TestedDepth& depth) { return or_none(depth.plan_advantage); });
  for (const char* name : {"hits_per_customer", "plan_advantage"}) table.column(name).always_shown = true;
  return table;
}

result::Table calibration_table(const recommender::Backtest& test) {
  using Row = recommender::CalibrationGroup;
  result::Table table{"calibration",
                      "Calibration",
                      "One row for each range of stated probabilities: pairs of a customer and a product "
                      "that could be offered.",
                      {}};
  analysis::TableBuilder builder(table, test.calibration);
  builder
      .share("probability_from", "Stated probabilities from here,", [](const Row& row) { return row.from; })
      .always_shown = true;
  builder.share("probability_to", "to below here.", [](const Row& row) { return row.to; }).always_shown =
      true;
  builder.count("pairs", "Pairs with such a probability.", [](const Row& row) { return row.pairs; });
  builder.count("bought", "Of these, those bought within the horizon.",
                [](const Row& row) { return row.bought; });
  builder.share("stated", "Mean of the stated probabilities.", [](const Row& row) { return row.stated; })
      .always_shown = true;
  builder
      .share("observed", "bought / pairs.",
             [](const Row& row) { return row.pairs == 0 ? std::nan("") : row.observed.value; })
      .always_shown = true;
  builder.share("observed_low", "Lower end of its 95% interval.",
                [](const Row& row) { return row.observed.interval.low; });
  builder.share("observed_high", "Upper end of its 95% interval.",
                [](const Row& row) { return row.observed.interval.high; });
  return table;
}

}  // namespace pear::offers
