// Tables of offers: the plan, and its products.
#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/table_builder.hpp"
#include "base/text.hpp"
#include "questions/offers/finding.hpp"

namespace pear::offers {
namespace {

std::vector<std::int64_t> ranks_of(const std::vector<recommender::Offer>& offers) {
  std::vector<std::int64_t> ranks;
  for (std::size_t i = 0; i < offers.size(); ++i)
    ranks.push_back(i > 0 && offers[i].customer == offers[i - 1].customer ? ranks.back() + 1 : 1);
  return ranks;
}

/// Sentences are made as they are read: kept, they would take more room than the rest of the plan.
result::TableColumn reason_column(const std::shared_ptr<const Finding>& kept) {
  result::TableColumn column;
  column.name = "reason";
  column.description = "Why, in words.";
  column.always_shown = true;
  column.values = result::LazyColumn<std::string_view>{
      kept->offers.size(), [kept](std::size_t row) {
        thread_local std::string text;  // stands until the thread asks again
        text = kept->reason(kept->offers[row]);
        return std::string_view(text);
      }};
  return column;
}

}  // namespace

result::Table plan_table(const std::shared_ptr<const Finding>& kept) {
  const Finding& finding = *kept;
  const auto& offers = finding.offers;
  result::Table table{
      "", "Offers", "One row for each customer and product to offer them, the best first.", {}};
  auto& columns = table.columns;
  std::vector<std::uint32_t> customers, products, because;
  for (const recommender::Offer& offer : offers) {
    customers.push_back(offer.customer), products.push_back(offer.product);
    because.push_back(offer.is_by_step() ? offer.because_of : expression::kNoMember);
  }
  columns.push_back(
      analysis::id_column("customer_id", "The customer.", finding.asked.daybook.customer_ids(), customers));
  columns.back().always_shown = true;
  analysis::add_names(finding.asked.daybook, finding.customers, customers, columns);
  columns.back().always_shown = columns.size() == 1;  // ids do, where there is no room for names
  analysis::RowColumns<recommender::Offer> rows(offers, columns);
  columns.push_back(result::integer_column("rank", result::Unit::count, "1 for the customer's best offer.",
                                           ranks_of(offers)));
  columns.back().always_shown = true;
  columns.push_back(analysis::id_column("product_id", "The product to offer.",
                                        finding.asked.daybook.product_ids(), products));
  columns.back().always_shown = true;
  analysis::add_names(finding.asked.daybook, finding.products, products, columns);
  rows.share("chance", "Chance that the customer buys it within the horizon.",
             [](const recommender::Offer& offer) { return offer.chance; })
      .always_shown = true;
  if (finding.has_margins())
    rows.whole("expected_margin", result::Unit::money,
               "chance x the mean margin of a purchase of it in the group.",
               [&](const recommender::Offer& offer) { return finding.expected_margin(offer); })
        .always_shown = true;
  rows.whole("expected_amount", result::Unit::money,
             "chance x the mean amount of a purchase of it in the group.",
             [&](const recommender::Offer& offer) { return finding.expected_amount(offer); })
      .always_shown = !finding.has_margins();
  rows.whole("best_from", result::Unit::date, "From this day on the offer fits best.",
             [&](const recommender::Offer& offer) { return finding.best_days(offer).first.days; });
  rows.whole("best_until", result::Unit::date, "Up to this day the offer fits best.",
             [&](const recommender::Offer& offer) { return finding.best_days(offer).second.days; });
  columns.push_back(reason_column(kept));
  columns.push_back(analysis::id_column(
      "because_of", "The product bought before that makes it likely; empty where it is popular.",
      finding.asked.daybook.product_ids(), because));
  rows.whole("evidence_customers", result::Unit::count,
             "Customers seen in the same position on earlier days.",
             [&](const recommender::Offer& offer) { return finding.seen(offer).customers; });
  rows.share("rate", "Of these, the share that bought it within the horizon, over all those days.",
             [&](const recommender::Offer& offer) { return finding.seen(offer).rate(); });
  rows.ratio("lift", "rate by that of all active customers who had not bought it.",
             [&](const recommender::Offer& offer) { return finding.lift(offer); });
  for (result::TableColumn& column : columns)  // so that a terminal has room for reasons
    column.heading = column.name == "customer_id"       ? "customer"
                     : column.name == "product_id"      ? "product"
                     : column.name == "product_name"    ? "name"
                     : column.name == "expected_margin" ? "margin"
                                                        : "";
  return table;
}

result::Table products_table(const Finding& finding) {
  struct Row {
    std::uint32_t product = 0;
    std::uint64_t customers = 0, first = 0, by_step = 0;
    double buyers = 0;
    std::int64_t amount = 0, margin = 0;
  };
  std::vector<Row> all(finding.products.distinct);
  const std::vector<std::int64_t> ranks = ranks_of(finding.offers);
  for (std::size_t i = 0; i < finding.offers.size(); ++i) {
    const recommender::Offer& offer = finding.offers[i];
    Row& row = all[offer.product];
    row.product = offer.product;
    ++row.customers;
    row.first += ranks[i] == 1 ? 1U : 0U;
    row.by_step += offer.is_by_step() ? 1U : 0U;
    row.buyers += offer.chance;
    row.amount += finding.expected_amount(offer);
    if (finding.has_margins()) row.margin += finding.expected_margin(offer);
  }
  std::erase_if(all, [](const Row& row) { return row.customers == 0; });
  std::stable_sort(all.begin(), all.end(), [&](const Row& a, const Row& b) {
    return finding.has_margins() ? a.margin > b.margin : a.amount > b.amount;
  });
  result::Table table{
      "products", "Products that are offered", "One row for each product, for stocking and leaflets.", {}};
  std::vector<std::uint32_t> products;
  for (const Row& row : all) products.push_back(row.product);
  table.columns.push_back(
      analysis::id_column("product_id", "What is offered.", finding.asked.daybook.product_ids(), products));
  table.columns.back().always_shown = true;
  analysis::add_names(finding.asked.daybook, finding.products, products, table.columns);
  analysis::RowColumns<Row> columns(all, table.columns);
  columns
      .whole("customers", result::Unit::count, "Customers to whom it is offered.",
             [](const Row& row) { return row.customers; })
      .always_shown = true;
  columns.whole("as_first", result::Unit::count, "Of these, those whose best offer it is.",
                [](const Row& row) { return row.first; });
  columns.whole("by_purchases", result::Unit::count, "Of these, those for whom an earlier purchase speaks.",
                [](const Row& row) { return row.by_step; });
  columns
      .whole("expected_buyers", result::Unit::number,
             "How many of them are expected to buy it within the horizon.",
             [](const Row& row) { return analysis::in_units(row.buyers); })
      .places = 1;
  columns
      .whole("expected_amount", result::Unit::money, "Amount that these are expected to bring.",
             [](const Row& row) { return row.amount; })
      .always_shown = true;
  if (finding.has_margins())
    columns
        .whole("expected_margin", result::Unit::money, "Margin that these are expected to bring.",
               [](const Row& row) { return row.margin; })
        .always_shown = true;
  return table;
}

}  // namespace pear::offers
