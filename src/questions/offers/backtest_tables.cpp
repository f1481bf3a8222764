#include "questions/offers/backtest_tables.hpp"

#include <cmath>
#include <functional>

#include "analysis/tables/table_builder.hpp"

namespace pear::offers {
namespace {

struct BacktestRow {
  std::string purchases;
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

std::string kind_text(recommender::PurchaseKind kind) {
  return kind == recommender::PurchaseKind::new_product ? "new products" : "repurchases";
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
  for (const std::size_t depth : {kHeadlineDepth, std::size_t{0}, std::size_t{2}}) {
    for (const recommender::KindBacktest& kind : test.kinds)
      for (const recommender::TestedMethod& method : kind.methods)
        rows.push_back({kind_text(kind.kind), method, method.depths[depth]});
    for (const recommender::TestedMethod& plan : test.plans)
      rows.push_back({"both", plan, plan.depths[depth]});
  }
  result::Table table{
      "",
      "Plan and baselines",
      "One row for each kind of purchase, each method, and the first 3, 1 and 5 offers to each "
      "customer.",
      {}};
  Builder builder(table, rows);
  const std::string found = test.has_margins ? "margin" : "amount";
  builder
      .text("purchases", "Offers of products that are new to the customer, of those bought before, or both.",
            [](const BacktestRow& row) { return row.purchases; })
      .always_shown = true;
  builder.text("method", "How offers were chosen.", [](const BacktestRow& row) { return row.method.name; })
      .always_shown = true;
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
  add_share(builder, "recall", "hits / all purchases of this kind by these customers within the horizon.",
            [](const recommender::TestedDepth& depth) { return depth.recall; });
  builder.money(found + "_found", "The value of the hits.",
                [](const BacktestRow& row) { return row.depth.found; });
  add_number(builder, found + "_per_customer", "The same per customer.",
             [](const recommender::TestedDepth& depth) { return in_money(depth.found_per_customer); });
  add_number(builder, "plan_advantage",
             "Hits per customer of the plan by probability, minus these; empty for the plan.",
             [](const recommender::TestedDepth& depth) { return or_none(depth.plan_advantage); });
  for (const char* name : {"hits_per_customer", "plan_advantage"}) table.column(name).always_shown = true;
  return table;
}

namespace {

struct CalibrationRow {
  recommender::PurchaseKind kind;
  const recommender::CalibrationGroup& group;
};
using CalibrationBuilder = analysis::TableBuilder<std::vector<CalibrationRow>>;

/// Pairs, stated and observed purchases, and their ratio.
void add_calibration(CalibrationBuilder& builder) {
  using Row = CalibrationRow;
  builder.count("pairs", "Pairs of a customer and a product that could be offered.",
                [](const Row& row) { return row.group.pairs; });
  builder.count("bought", "Of these, those bought within the horizon.",
                [](const Row& row) { return row.group.bought; });
  builder
      .share("stated", "Mean of the stated probabilities.", [](const Row& row) { return row.group.stated; })
      .always_shown = true;
  builder
      .share("observed", "bought / pairs.",
             [](const Row& row) { return row.group.pairs == 0 ? std::nan("") : row.group.observed.value; })
      .always_shown = true;
  builder.share("observed_low", "Lower end of its 95% interval.",
                [](const Row& row) { return row.group.observed.interval.low; });
  builder.share("observed_high", "Upper end of its 95% interval.",
                [](const Row& row) { return row.group.observed.interval.high; });
  builder
      .number("ratio", "stated / observed: above 1, probabilities are too high.", 2,
              [](const Row& row) { return row.group.bought == 0 ? std::nan("") : row.group.ratio.value; })
      .always_shown = true;
  builder.number("ratio_low", "Lower end of its 95% interval.", 2,
                 [](const Row& row) { return row.group.ratio.interval.low; });
  builder.number("ratio_high", "Upper end of its 95% interval.", 2,
                 [](const Row& row) { return row.group.ratio.interval.high; });
}

void add_kind(CalibrationBuilder& builder) {
  builder
      .text("purchases", "Products that are new to the customer, or bought before and due again.",
            [](const CalibrationRow& row) { return kind_text(row.kind); })
      .always_shown = true;
}

}  // namespace

std::string third_text(const recommender::CalibrationGroup& group) {
  return group.from == 0 ? "fewest purchases" : group.to == 1 ? "most purchases" : "medium purchases";
}

result::Table calibration_table(const recommender::Backtest& test) {
  std::vector<CalibrationRow> rows;
  for (const recommender::KindBacktest& kind : test.kinds)
    for (const recommender::CalibrationGroup& group : kind.by_probability)
      if (group.pairs > 0) rows.push_back({kind.kind, group});
  result::Table table{"calibration",
                      "Calibration by probability",
                      "One row for each kind of purchase and range of stated probabilities.",
                      {}};
  CalibrationBuilder builder(table, rows);
  add_kind(builder);
  builder
      .share("probability_from", "Stated probabilities from here,",
             [](const CalibrationRow& row) { return row.group.from; })
      .always_shown = true;
  builder.share("probability_to", "to below here.", [](const CalibrationRow& row) { return row.group.to; })
      .always_shown = true;
  add_calibration(builder);
  return table;
}

result::Table customer_calibration_table(const recommender::Backtest& test) {
  std::vector<CalibrationRow> rows;
  for (const recommender::KindBacktest& kind : test.kinds)
    for (const recommender::CalibrationGroup& group : kind.by_purchases)
      if (group.pairs > 0) rows.push_back({kind.kind, group});
  result::Table table{
      "calibration-customers",
      "Calibration by customers",
      "One row for each kind of purchase and each third of the customers by purchases so far.",
      {}};
  CalibrationBuilder builder(table, rows);
  add_kind(builder);
  builder
      .text("customers", "The third of the customers with fewest, medium or most purchases so far.",
            [](const CalibrationRow& row) { return third_text(row.group); })
      .always_shown = true;
  add_calibration(builder);
  return table;
}

}  // namespace pear::offers
