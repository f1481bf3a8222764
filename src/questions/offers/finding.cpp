#include "questions/offers/finding.hpp"

#include <algorithm>
#include <cmath>
#include <span>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/reasons.hpp"

namespace pear::offers {
namespace {

std::string money(const Counts& counts, std::int64_t units) {
  return analysis::rounded_money_text(units, counts.input.currency);
}

std::string value_noun(const Counts& counts) { return counts.has_margins() ? "margin" : "sales"; }

/// The most likely offer, preferably one with a trigger; none if there is no offer.
const recommender::Offer* most_likely_of(std::span<const recommender::Offer> offers) {
  const auto found = std::max_element(offers.begin(), offers.end(), [](const auto& a, const auto& b) {
    return std::pair(a.is_triggered(), a.probability) < std::pair(b.is_triggered(), b.probability);
  });
  return found == offers.end() ? nullptr : &*found;
}

/// What the stock list excludes, and which of its products were never sold.
std::vector<std::string> stock_notes(const Counts& counts) {
  const std::vector<std::int64_t>& stock = *counts.constraints.stock;
  const auto gone = static_cast<std::uint64_t>(std::count(stock.begin(), stock.end(), 0));
  std::vector<std::string> notes = {
      fmt::format("Not in stock, or not on the stock list, and not offered: {}.", counted(gone, "product"))};
  const std::vector<std::string> unknown = never_sold(counts.input);
  if (!unknown.empty())
    notes.push_back(fmt::format("{} of the stock list {} never sold: {}{}.",
                                counted(unknown.size(), "product"), unknown.size() == 1 ? "was" : "were",
                                in_quotes(unknown.front()), unknown.size() > 1 ? " and others" : ""));
  return notes;
}

std::string control_note(const Counts& counts) {
  std::uint64_t customers = 0;
  for (std::size_t i = counts.contacted; i < counts.offers.size(); ++i)
    customers += counts.offers[i].rank == 1 ? 1U : 0U;
  return fmt::format(
      "Control group: {} ({} by a hash of the id, the same in every plan) have offers in the list, but are "
      "not "
      "to be contacted and do not count. Keep the list: offers --measure compares what both groups buy.",
      counted(customers, "customer"), analysis::per_cent(*counts.options.control));
}

}  // namespace

std::vector<ProductSum> sums_by_product(const Counts& counts) {
  std::vector<ProductSum> sums(counts.products.distinct);
  for (const recommender::Offer& offer : counts.offers_to_contact()) {
    sums[offer.product].product = offer.product;
    ++sums[offer.product].customers;
    sums[offer.product].value += counts.expected_value(offer);
  }
  std::erase_if(sums, [](const ProductSum& sum) { return sum.customers == 0; });
  std::stable_sort(sums.begin(), sums.end(),
                   [](const ProductSum& a, const ProductSum& b) { return a.value > b.value; });
  return sums;
}

std::string product_sentence(const Counts& counts, const ProductSum& sum) {
  return fmt::format("{}: {} {} expected from offers to {}", counts.names().title(sum.product),
                     money(counts, sum.value), value_noun(counts), counted(sum.customers, "customer"));
}

std::vector<std::string> headline_of(const Counts& counts) {
  const std::string active = counted(counts.active, "active customer");
  const recommender::Offer* most_likely = most_likely_of(counts.offers_to_contact());
  if (most_likely == nullptr)
    return {fmt::format(
        "No offers: no product that brings something has a probability of {1} or more for any of {0}.",
        active, analysis::per_cent(counts.constraints.min_probability))};
  std::uint64_t customers = 0;
  std::int64_t value = 0;
  double purchases = 0;
  for (const recommender::Offer& offer : counts.offers_to_contact()) {
    customers += offer.rank == 1 ? 1U : 0U;
    value += counts.expected_value(offer);
    purchases += offer.purchases;
  }
  return {
      fmt::format("{} to {} of {}: {} purchases and {} {} expected within {}.",
                  counted(counts.contacted, "offer"), analysis::number(customers), active,
                  analysis::number(static_cast<std::uint64_t>(std::llround(purchases))), money(counts, value),
                  value_noun(counts), analysis::days_text(counts.purchases().landmarks.horizon)),
      fmt::format("{}: {} to {}, probability {}. Reason: {}.",
                  most_likely->is_triggered() ? "Most likely offer with a trigger" : "Most likely offer",
                  counts.names().title(most_likely->product),
                  analysis::label_with_name(counts.input.daybook, counts.customers, most_likely->customer),
                  analysis::per_cent(most_likely->probability), reason(counts, *most_likely)),
      fmt::format("Highest expected value: {}.", product_sentence(counts, sums_by_product(counts).front()))};
}

result::Definitions definitions_of(const Counts& counts) {
  return {
      {"as_of", to_text(counts.as_of)},
      {"horizon", analysis::days_text(counts.options.days_ahead())},
      {"active",
       fmt::format("last order less than {} before as_of", analysis::days_text(counts.options.active))},
      {"probability", "of at least one purchase within the horizon, with or without an offer"},
      {"expected purchases", counts.options.uplift
                                 ? "orders within the horizon that an offer can cause: of new products, and "
                                   "those that a step triggers"
                                 : "orders within the horizon, with or without an offer"},
      {"rate", "share of customers in the same position on earlier days who bought it within the horizon"},
      {"step", "binomial tests, q values by Benjamini and Hochberg up to 0.05"}};
}

std::vector<result::Check> checks_of(const Counts& counts) {
  bool are_different = true, are_allowed = true, are_in_stock = true, are_probabilities = true;
  std::vector<std::int64_t> offered(counts.products.distinct);
  std::vector<std::uint32_t> last_customer(counts.products.distinct, daybook::kNoMember);
  for (const recommender::Offer& offer : counts.offers) {
    are_different =
        are_different && std::exchange(last_customer[offer.product], offer.customer) != offer.customer;
    are_allowed = are_allowed && counts.constraints.allowed[offer.product] != 0;
    are_probabilities = are_probabilities && offer.probability > 0 && offer.probability <= 1;
    ++offered[offer.product];
  }
  if (counts.constraints.stock)
    for (std::size_t product = 0; product < offered.size(); ++product)
      are_in_stock = are_in_stock && offered[product] <= (*counts.constraints.stock)[product];
  return {{"nobody is offered the same product twice", are_different},
          {"excluded products, and products out of stock, are not offered", are_allowed && are_in_stock},
          {"every probability is above 0 and at most 1", are_probabilities}};
}

std::vector<std::string> notes_of(const Counts& counts) {
  const recommender::PurchaseModel& model = counts.purchases();
  const recommender::Landmarks& landmarks = model.landmarks;
  std::string group = "all customers are one group";
  if (counts.groups().is_split())
    group = fmt::format(
        "groups by {}{}", counts.groups().noun(),
        counts.options.per ? "" : ", the most informative column about what they buy (change it with --per)");
  std::vector<std::string> notes = {
      fmt::format("Learned from {} between {} and {}: {} of {} tested pairs of products follow one another "
                  "significantly more often than expected; {}.",
                  counted(landmarks.days.size(), "earlier day"), to_text(Date{landmarks.days.front()}),
                  to_text(Date{landmarks.days.back()}), analysis::number(model.steps.steps()),
                  analysis::number(model.pairs_tested), group)};
  notes.emplace_back(
      counts.options.uplift
          ? "Expected purchases are those that an offer can cause: of new products, and those that a step "
            "triggers."
          : "Expected purchases include those that customers would make without an offer; --uplift "
            "leaves out products that they buy again by themselves.");
  if (counts.options.method)
    notes.push_back(
        fmt::format("Offers to each customer are chosen by the method \"{}\". Probabilities and values are "
                    "those of the plan's "
                    "model.",
                    recommender::name_of(*counts.options.method, counts.groups().noun())));
  if (counts.options.budget)
    notes.emplace_back(
        "The customers contacted are those for whom offers cause most: purchases that they would "
        "make without an offer do not count for this choice.");
  if (counts.options.control) notes.push_back(control_note(counts));
  if (!counts.groups().note.empty()) notes.push_back(counts.groups().note);
  const std::string horizon = analysis::days_text(landmarks.horizon);
  notes.push_back(landmarks.season_day
                      ? fmt::format("Season: a year before, customers bought {:.2f} times the usual number "
                                    "of products in these {}.",
                                    model.rate.season(), horizon)
                      : fmt::format("The data is too short to estimate the season of the next {}.", horizon));
  if (counts.constraints.stock)
    for (std::string& note : stock_notes(counts)) notes.push_back(std::move(note));
  return notes;
}

}  // namespace pear::offers
