#include "questions/offers/campaign/campaign_tables.hpp"

#include <algorithm>
#include <array>
#include <span>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "statistics/significance.hpp"

namespace pear::offers {
namespace {

/// A figure of each group, and the difference with its interval.
using Comparison = std::array<double, 5>;

Comparison compared(double offered, double control, const statistics::Difference& difference) {
  return {offered, control, difference.value, difference.interval.low, difference.interval.high};
}

double share_of(std::uint64_t part, std::uint64_t whole) {
  return static_cast<double>(part) / static_cast<double>(whole);
}

Comparison compared_shares(const CampaignOutcome& outcome, std::uint64_t GroupOutcome::*part) {
  const GroupOutcome &offered = outcome.offered(), &control = outcome.control();
  return compared(
      share_of(offered.*part, offered.customers), share_of(control.*part, control.customers),
      statistics::difference_of_shares(offered.*part, offered.customers, control.*part, control.customers));
}

Comparison compared_ratios(const CampaignOutcome& outcome, statistics::RatioSums GroupOutcome::*sums,
                           double unit = 1) {
  const statistics::RatioSums &offered = outcome.offered().*sums, &control = outcome.control().*sums;
  Comparison rows =
      compared(offered.ratio(), control.ratio(), statistics::difference_of_ratios(offered, control));
  for (double& row : rows) row /= unit;
  return rows;
}

/// A count of both groups; empty in the rows of the difference.
std::int64_t count_in(std::size_t row, const CampaignOutcome& outcome, std::uint64_t GroupOutcome::*count) {
  return row < outcome.groups.size() ? static_cast<std::int64_t>(outcome.groups[row].*count)
                                     : result::kEmptyCell;
}

/// A product and a group.
struct FigureRow {
  std::string product;
  std::size_t group = 0;
  std::uint64_t buyers = 0, customers = 0;
};

}  // namespace

std::string share_text(const CampaignOutcome& outcome) {
  const GroupOutcome &offered = outcome.offered(), &control = outcome.control();
  return fmt::format(
      "{} of {} offered customers bought a product offered to them, and {} of {} control customers",
      analysis::per_cent(offered.buyers, offered.customers), analysis::number(offered.customers),
      analysis::per_cent(control.buyers, control.customers), analysis::number(control.customers));
}

result::Table groups_table(const CampaignOutcome& outcome) {
  const std::string value = outcome.has_margins ? "margin" : "amount";
  result::Table table{"",
                      "Offered and control customers",
                      "One row for each group, and for their difference with its 95% interval.",
                      {}};
  const analysis::NumberedRows rows{std::tuple_size_v<Comparison>};
  analysis::TableBuilder builder(table, rows);
  builder
      .text("group", "offer, control, or the difference between them and the ends of its interval.",
            [](std::size_t row) {
              return std::array{"offer", "control", "difference", "difference, low", "difference, high"}[row];
            })
      .always_shown = true;
  builder.count("customers", "Customers of the group.",
                [&](std::size_t row) { return count_in(row, outcome, &GroupOutcome::customers); });
  builder.count("offers", "Offers to them; for the control group, those that were not made.",
                [&](std::size_t row) { return count_in(row, outcome, &GroupOutcome::offers); });
  const auto share = [&](const char* name, const char* what, std::uint64_t GroupOutcome::*part) {
    const Comparison cells = compared_shares(outcome, part);
    builder.share(name, what, [&](std::size_t row) { return cells[row]; });
  };
  const auto number = [&](const char* name, const char* what, statistics::RatioSums GroupOutcome::*sums) {
    const Comparison cells = compared_ratios(outcome, sums);
    builder.number(name, what, 3, [&](std::size_t row) { return cells[row]; });
  };
  const auto money = [&](const std::string& name, const char* what,
                         statistics::RatioSums GroupOutcome::*sums) {
    const Comparison cells = compared_ratios(outcome, sums, Decimal::kScale);
    builder.rounded_money(name, what, [&](std::size_t row) { return analysis::in_units(cells[row]); });
  };
  share("bought_an_offer", "Share of customers who bought at least one product offered to them.",
        &GroupOutcome::buyers);
  number("offers_bought", "Offered products that were bought, per customer.", &GroupOutcome::bought);
  money(value + "_per_offer", "Of the offered products, per offer.", &GroupOutcome::per_offer);
  money("offered_" + value, "Of the offered products, per customer.", &GroupOutcome::value);
  money("all_" + value, "Of all purchases, fees included, per customer.", &GroupOutcome::all_value);
  share("ordered", "Share of customers with an order.", &GroupOutcome::ordering);
  number("orders", "Orders per customer.", &GroupOutcome::orders);
  return table;
}

std::vector<double> q_values_of(const CampaignOutcome& outcome) {
  std::vector<double> p_values;
  for (const ProductOutcome& product : outcome.products) {
    const auto& [offered, control] = product.customers;
    p_values.push_back(offered == 0 || control == 0
                           ? 1
                           : statistics::fisher_test(product.buyers[0], offered,
                                                     product.buyers[0] + product.buyers[1],
                                                     offered + control));
  }
  return statistics::q_values(p_values, p_values.size());
}

result::Table campaign_products_table(const CampaignOutcome& outcome, const daybook::Daybook& daybook,
                                      const expression::GroupKey& products) {
  result::Table table{"products",
                      "Offered products",
                      "One row for each product: the customers whom it was offered, or would have been.",
                      {}};
  const std::vector<double> q_values = q_values_of(outcome);
  analysis::TableBuilder builder(table, outcome.products);
  const auto code = [](const ProductOutcome& product) { return product.product; };
  builder.id("product_id", "The offered product.", daybook.product_ids(), code).always_shown = true;
  builder.names(daybook, products, code);
  const auto count = [&](const char* name, const char* what, std::array<std::uint64_t, 2> ProductOutcome::*of,
                         std::size_t group) {
    builder.count(name, what, [=](const ProductOutcome& product) { return (product.*of)[group]; });
  };
  const auto share = [&](const char* name, const char* what, std::size_t group) {
    builder
        .share(name, what,
               [=](const ProductOutcome& product) {
                 return share_of(product.buyers[group], product.customers[group]);
               })
        .always_shown = true;
  };
  count("offered", "Offered customers.", &ProductOutcome::customers, 0);
  count("offered_buyers", "Offered customers who bought it.", &ProductOutcome::buyers, 0);
  share("offered_share", "Share of offered customers who bought it.", 0);
  count("control", "Control customers who would have been offered it.", &ProductOutcome::customers, 1);
  count("control_buyers", "Control customers who bought it.", &ProductOutcome::buyers, 1);
  share("control_share", "Share of control customers who bought it.", 1);
  builder
      .share("difference", "offered_share - control_share.",
             [](const ProductOutcome& product) { return product.difference().value; })
      .always_shown = true;
  builder.share("difference_low", "Lower end of its 95% interval.",
                [](const ProductOutcome& product) { return product.difference().interval.low; });
  builder.share("difference_high", "Upper end of its 95% interval.",
                [](const ProductOutcome& product) { return product.difference().interval.high; });
  builder
      .probability("q_value", "Of the difference. Up to 0.05: significant among all products.",
                   [&](const ProductOutcome& product) {
                     return q_values[static_cast<std::size_t>(&product - outcome.products.data())];
                   })
      .always_shown = true;
  return table;
}

result::Figure campaign_figure(const CampaignOutcome& outcome, const analysis::ItemLabels& names) {
  constexpr std::size_t kProducts = 4;
  std::vector<FigureRow> rows;
  for (std::size_t group = 0; group < outcome.groups.size(); ++group)
    rows.push_back({"all offers", group, outcome.groups[group].buyers, outcome.groups[group].customers});
  const std::size_t shown = std::min(kProducts, outcome.products.size());
  for (const ProductOutcome& product : std::span(outcome.products).first(shown))
    for (std::size_t group = 0; group < outcome.groups.size(); ++group)
      rows.push_back({names.title(product.product), group, product.buyers[group], product.customers[group]});
  result::Figure figure;
  figure.title = share_text(outcome);
  figure.subtitle =
      fmt::format("Share of customers who bought what was offered to them, {} to {}, with 95% intervals",
                  to_text(outcome.campaign.from), to_text(outcome.campaign.until));
  analysis::TableBuilder builder(figure.marks, rows);
  builder.text("group", "The product and the group.", [](const FigureRow& row) {
    return fmt::format("{}: {}", row.product, row.group == 0 ? "offered" : "control");
  });
  builder.share("share", "Share of the group who bought it.",
                [](const FigureRow& row) { return share_of(row.buyers, row.customers); });
  builder.share("low", "Lower end of its interval.", [](const FigureRow& row) {
    return statistics::wilson_interval(row.buyers, row.customers).low;
  });
  builder.share("high", "Upper end of its interval.", [](const FigureRow& row) {
    return statistics::wilson_interval(row.buyers, row.customers).high;
  });
  builder.count("customers", "Customers of the group.", [](const FigureRow& row) { return row.customers; });
  result::IntervalChart chart;
  chart.label = "group";
  chart.value = "share";
  chart.low = "low";
  chart.high = "high";
  chart.basis = chart.basis_title = "customers";
  chart.value_title = "customers who bought it";
  for (std::size_t row = 0; row < rows.size(); ++row)
    if (rows[row].group == 0) chart.noticed.push_back(row);
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace pear::offers
