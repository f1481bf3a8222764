#include "questions/offers/campaign/campaign_list.hpp"

#include <algorithm>
#include <span>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "questions/offers/reasons.hpp"

namespace pear::offers {
namespace {

using recommender::Offer;

constexpr std::string_view kDescription =
    "Expected purchases x the mean value of a purchase of it in the group.";

/// All offers to one customer.
struct CustomerRow {
  std::span<const Offer> offers;
  std::int64_t value = 0;
};

std::vector<CustomerRow> customer_rows(const Counts& counts) {
  std::vector<CustomerRow> rows;
  const std::span<const Offer> offers = counts.offers_to_contact();
  for (std::size_t begin = 0, end = 0; begin < offers.size(); begin = end) {
    CustomerRow row;
    for (; end < offers.size() && offers[end].customer == offers[begin].customer; ++end)
      row.value += counts.expected_value(offers[end]);
    row.offers = offers.subspan(begin, end - begin);
    rows.push_back(row);
  }
  std::stable_sort(rows.begin(), rows.end(),
                   [](const CustomerRow& a, const CustomerRow& b) { return a.value > b.value; });
  return rows;
}

/// The columns of each customer's offer of this rank; empty for customers with fewer offers.
void add_offer(std::size_t place, const Counts& counts,
               analysis::TableBuilder<std::vector<CustomerRow>>& builder, result::Table& table) {
  const std::string number = std::to_string(place + 1);
  const auto has = [place](const CustomerRow& row) { return place < row.offers.size(); };
  const auto product = [=](const CustomerRow& row) {
    return has(row) ? row.offers[place].product : daybook::kNoMember;
  };
  const std::size_t first = table.columns.size();
  builder.id("product_id", "The customer's offer number " + number + ".", counts.input.daybook.product_ids(),
             product);
  builder.names(counts.input.daybook, counts.products, product);
  builder.date("best_from", "First day on which it fits best.", [=, &counts](const CustomerRow& row) {
    return has(row) ? best_days(counts, row.offers[place]).first.days : result::kEmptyCell;
  });
  builder.date("best_until", "Last day on which it fits best.", [=, &counts](const CustomerRow& row) {
    return has(row) ? best_days(counts, row.offers[place]).second.days : result::kEmptyCell;
  });
  for (std::size_t column = first; column < table.columns.size(); ++column) {
    std::string& name = table.columns[column].name;
    name = column == first          ? "product_" + number
           : name == "product_name" ? fmt::format("product_{}_name", number)
                                    : fmt::format("{}_{}", name, number);
    table.columns[column].always_shown = place == 0 && column <= first + 1;
  }
}

result::Table list_by_customer(const Counts& counts) {
  const std::vector<CustomerRow> rows = customer_rows(counts);
  result::Table table{
      "list", "Campaign list", "One row for each customer to contact, with all offers, the best first.", {}};
  analysis::TableBuilder builder(table, rows);
  const auto customer = [](const CustomerRow& row) { return row.offers.front().customer; };
  builder.id("customer_id", "The customer.", counts.input.daybook.customer_ids(), customer).always_shown =
      true;
  builder.names(counts.input.daybook, counts.customers, customer);
  builder.count("offers", "Offers to the customer.",
                [](const CustomerRow& row) { return row.offers.size(); });
  builder
      .money(counts.has_margins() ? "expected_margin" : "expected_amount", "Of all offers to the customer.",
             [](const CustomerRow& row) { return row.value; })
      .always_shown = true;
  std::size_t most = 0;
  for (const CustomerRow& row : rows) most = std::max(most, row.offers.size());
  for (std::size_t place = 0; place < most; ++place) add_offer(place, counts, builder, table);
  return table;
}

/// Positions in the offers to contact: the products with the largest value first, and of each the best
/// offers.
std::vector<std::uint32_t> order_by_product(const Counts& counts) {
  std::vector<std::int64_t> values(counts.products.distinct);
  for (const Offer& offer : counts.offers_to_contact()) values[offer.product] += counts.expected_value(offer);
  std::vector<std::uint32_t> order(counts.best_first.begin(),
                                   counts.best_first.begin() + static_cast<std::ptrdiff_t>(counts.contacted));
  std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
    const std::uint32_t of_a = counts.offers[a].product, of_b = counts.offers[b].product;
    return values[of_a] != values[of_b] ? values[of_a] > values[of_b] : of_a < of_b;
  });
  return order;
}

result::Table list_by_product(const Counts& counts) {
  const std::vector<std::uint32_t> order = order_by_product(counts);
  result::Table table{"list",
                      "Campaign list",
                      "One row for each product and customer to offer it, the best customers first.",
                      {}};
  analysis::TableBuilder builder(table, order);
  const auto each = [&](auto of) {
    return [&counts, of](std::uint32_t row) { return of(counts.offers[row]); };
  };
  const auto product = each([](const Offer& offer) { return offer.product; });
  const auto customer = each([](const Offer& offer) { return offer.customer; });
  builder.id("product_id", "The product to offer.", counts.input.daybook.product_ids(), product)
      .always_shown = true;
  builder.names(counts.input.daybook, counts.products, product);
  builder.id("customer_id", "The customer to contact.", counts.input.daybook.customer_ids(), customer)
      .always_shown = true;
  builder.names(counts.input.daybook, counts.customers, customer);
  builder
      .share("probability", "Probability that the customer buys it within the horizon.",
             each([](const Offer& offer) { return offer.probability; }))
      .always_shown = true;
  builder
      .money(counts.has_margins() ? "expected_margin" : "expected_amount", std::string(kDescription),
             each([&](const Offer& offer) { return counts.expected_value(offer); }))
      .always_shown = true;
  builder
      .date("best_from", "First day on which the offer fits best.",
            each([&](const Offer& offer) { return best_days(counts, offer).first.days; }))
      .always_shown = true;
  builder
      .date("best_until", "Last day on which the offer fits best.",
            each([&](const Offer& offer) { return best_days(counts, offer).second.days; }))
      .always_shown = true;
  return table;
}

}  // namespace

result::Table campaign_list(const Counts& counts, CampaignList list) {
  return list == CampaignList::customers ? list_by_customer(counts) : list_by_product(counts);
}

}  // namespace pear::offers
