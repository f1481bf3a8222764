#include "questions/offers/tables.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "questions/offers/reasons.hpp"

namespace pear::offers {
namespace {

/// A figure of an offer, for rows that are positions in the offers.
template <class Of>
auto of_offer(const Counts& counts, Of of) {
  return [&offers = counts.offers, of](std::uint32_t row) { return of(offers[row]); };
}

/// Sentences are composed when they are read: stored, they would take more memory than the rest of the plan.
result::TableColumn reason_column(const std::shared_ptr<const Counts>& kept) {
  result::TableColumn column;
  column.name = "reason";
  column.description = "The reason in words.";
  column.is_below = true;
  column.values = result::computed<std::string>(kept->offers.size(), [kept](std::size_t row) {
    return reason(*kept, kept->offers[kept->best_first[row]]);
  });
  return column;
}

/// Short headings, so that a terminal has room for reasons.
void shorten_headings(result::Table& table) {
  const std::map<std::string, std::string> headings = {{"customer_id", "customer"},
                                                       {"product_id", "product"},
                                                       {"product_name", "name"},
                                                       {"expected_margin", "margin"}};
  for (result::TableColumn& column : table.columns)
    if (const auto heading = headings.find(column.name); heading != headings.end())
      column.heading = heading->second;
}

/// The totals of the offers of one product.
struct ProductRow {
  std::uint32_t product = 0;
  std::uint64_t customers = 0, as_first = 0, triggered = 0;
  double buyers = 0;
  std::int64_t amount = 0, margin = 0;
};

std::vector<ProductRow> product_rows(const Counts& counts) {
  std::vector<ProductRow> rows(counts.products.distinct);
  for (const recommender::Offer& offer : counts.offers_to_contact()) {
    ProductRow& row = rows[offer.product];
    row.product = offer.product;
    ++row.customers;
    row.as_first += offer.rank == 1 ? 1U : 0U;
    row.triggered += offer.is_triggered() ? 1U : 0U;
    row.buyers += offer.purchases;
    row.amount += counts.expected_amount(offer);
    if (counts.has_margins()) row.margin += counts.expected_margin(offer);
  }
  std::erase_if(rows, [](const ProductRow& row) { return row.customers == 0; });
  std::stable_sort(rows.begin(), rows.end(), [&](const ProductRow& a, const ProductRow& b) {
    return counts.has_margins() ? a.margin > b.margin : a.amount > b.amount;
  });
  return rows;
}

}  // namespace

result::Table plan_table(const std::shared_ptr<const Counts>& kept) {
  using recommender::Offer;
  const Counts& counts = *kept;
  const daybook::Daybook& daybook = counts.input.daybook;
  result::Table table{
      "", "Offers", "One row for each customer and product to offer them, the best first.", {}};
  analysis::TableBuilder builder(table, counts.best_first);
  const auto each = [&](auto of) { return of_offer(counts, of); };
  const auto customer = each([](const Offer& offer) { return offer.customer; });
  const auto product = each([](const Offer& offer) { return offer.product; });
  builder.id("customer_id", "The customer.", daybook.customer_ids(), customer).always_shown = true;
  builder.names(daybook, counts.customers, customer);
  table.columns.back().always_shown =
      table.columns.size() == 1;  // ids are shown if there is no room for names
  builder.count("rank", "1 for the customer's best offer.",
                each([](const Offer& offer) { return offer.rank; }));
  if (counts.options.control) {
    builder
        .text("group", "offer: contact the customer; control: do not, to compare what they buy.",
              [&](std::uint32_t row) { return row < counts.contacted ? "offer" : "control"; })
        .always_shown = true;
    const auto [first, last] = days_of(counts);
    builder.date("plan_from", "The first day of the plan.",
                 [day = first.days](std::uint32_t) { return day; });
    builder.date("plan_until", "Its last day: compare the groups when it is over.",
                 [day = last.days](std::uint32_t) { return day; });
  }
  builder.id("product_id", "The product to offer.", daybook.product_ids(), product).always_shown = true;
  builder.names(daybook, counts.products, product);
  builder
      .share("probability", "Probability that the customer buys it within the horizon.",
             each([](const Offer& offer) { return offer.probability; }))
      .always_shown = true;
  builder.number("expected_purchases",
                 counts.options.uplift
                     ? "The expected number of orders with it within the horizon that an offer can cause."
                     : "The expected number of orders with it within the horizon, with or without an offer.",
                 2, each([](const Offer& offer) { return offer.purchases; }));
  if (counts.has_margins())
    builder
        .money("expected_margin", "Expected purchases x the mean margin of a purchase of it in the group.",
               each([&](const Offer& offer) { return counts.expected_margin(offer); }))
        .always_shown = true;
  builder
      .money("expected_amount", "Expected purchases x the mean amount of a purchase of it in the group.",
             each([&](const Offer& offer) { return counts.expected_amount(offer); }))
      .always_shown = !counts.has_margins();
  builder
      .date("best_from", "First day on which the offer fits best.",
            each([&](const Offer& offer) { return best_days(counts, offer).first.days; }))
      .always_shown = true;
  builder.date("best_until", "Last day on which the offer fits best.",
               each([&](const Offer& offer) { return best_days(counts, offer).second.days; }));
  builder.add(reason_column(kept));
  builder.id("triggered_by",
             "The product bought earlier that triggers the offer; empty if the offer has no trigger.",
             daybook.product_ids(), each([](const Offer& offer) {
               return offer.is_triggered() ? offer.trigger->product : daybook::kNoMember;
             }));
  builder.count("evidence_customers", "Customers observed in the same position on earlier days.",
                each([&](const Offer& offer) { return observed(counts, offer).customers; }));
  builder.share("rate", "Share of them who bought it within the horizon, over all those days.",
                each([&](const Offer& offer) { return observed(counts, offer).rate(); }));
  builder.number("lift", "rate / that of all active customers who had not bought it.", 1,
                 each([&](const Offer& offer) { return lift(counts, offer); }));
  shorten_headings(table);
  return table;
}

result::Table evidence_table(const Counts& counts) {
  using recommender::Offer;
  result::Table table{
      "evidence",
      "Parts of each probability",
      "One row for each offer, in the order of the offers. The parts add up to the probability.",
      {}};
  analysis::TableBuilder builder(table, counts.best_first);
  const auto each = [&](auto of) { return of_offer(counts, of); };
  const auto customer = each([](const Offer& offer) { return offer.customer; });
  const auto product = each([](const Offer& offer) { return offer.product; });
  builder.id("customer_id", "The customer.", counts.input.daybook.customer_ids(), customer);
  builder.id("product_id", "The offered product.", counts.input.daybook.product_ids(), product).always_shown =
      true;
  builder.names(counts.input.daybook, counts.products, product);
  const auto part = [&](const char* name, const char* what, auto of) {
    builder.share(name, what, each(of)).always_shown = true;
  };
  part("probability", "Probability that the customer buys it within the horizon.",
       [](const Offer& offer) { return offer.probability; });
  part("segment", "Of a new product: how much the customer orders x its share in the segment.",
       [](const Offer& offer) { return offer.is_repurchase ? 0 : offer.parts.usual; });
  part("similar_customers", "Of a new product: what customers with the same purchases buy.",
       [](const Offer& offer) { return offer.parts.taste; });
  part("own_purchases", "Of a repurchase: how often, how regularly and how long ago the customer bought it.",
       [](const Offer& offer) { return offer.is_repurchase ? offer.parts.usual : 0; });
  part("trends", "How the product sells lately, and in this season.",
       [](const Offer& offer) { return offer.parts.trends; });
  part("steps", "Triggered by earlier purchases.", [](const Offer& offer) { return offer.parts.steps; });
  return table;
}

result::Table products_table(const Counts& counts) {
  const std::vector<ProductRow> rows = product_rows(counts);
  result::Table table{
      "products", "Offered products", "One row for each product, for stocking and leaflets.", {}};
  analysis::TableBuilder builder(table, rows);
  const auto product = [](const ProductRow& row) { return row.product; };
  builder.id("product_id", "The offered product.", counts.input.daybook.product_ids(), product).always_shown =
      true;
  builder.names(counts.input.daybook, counts.products, product);
  builder
      .count("customers", "Customers to whom it is offered.",
             [](const ProductRow& row) { return row.customers; })
      .always_shown = true;
  builder.count("as_first", "Of these, those whose best offer it is.",
                [](const ProductRow& row) { return row.as_first; });
  builder.count("by_purchases", "Of these, customers for whom an earlier purchase triggers it.",
                [](const ProductRow& row) { return row.triggered; });
  builder.number("expected_buyers", "The expected number of purchases within the horizon.", 1,
                 [](const ProductRow& row) { return row.buyers; });
  builder
      .money("expected_amount", "Expected amount of these purchases.",
             [](const ProductRow& row) { return row.amount; })
      .always_shown = true;
  if (counts.has_margins())
    builder
        .money("expected_margin", "Expected margin of these purchases.",
               [](const ProductRow& row) { return row.margin; })
        .always_shown = true;
  return table;
}

}  // namespace pear::offers
