#include "questions/offers/finding.hpp"

#include <algorithm>
#include <cmath>
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

/// The likeliest offer, before all others one that has a trigger; none where there is no offer.
const recommender::Offer* clearest_of(const std::vector<recommender::Offer>& offers) {
  const auto found = std::max_element(offers.begin(), offers.end(), [](const auto& a, const auto& b) {
    return std::pair(a.is_triggered(), a.probability) < std::pair(b.is_triggered(), b.probability);
  });
  return found == offers.end() ? nullptr : &*found;
}

/// What the stock list leaves out, and what it lists that was never sold.
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

}  // namespace

std::vector<ProductSum> sums_by_product(const Counts& counts) {
  std::vector<ProductSum> sums(counts.products.distinct);
  for (const recommender::Offer& offer : counts.offers) {
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
  return fmt::format("{}: {} {} expected of offers to {}", counts.names().title(sum.product),
                     money(counts, sum.value), value_noun(counts), counted(sum.customers, "customer"));
}

std::vector<std::string> headline_of(const Counts& counts) {
  const std::string active = counted(counts.active, "active customer");
  const recommender::Offer* clearest = clearest_of(counts.offers);
  if (clearest == nullptr)
    return {fmt::format(
        "No offers: of {} nobody has a chance of {} or more to buy a product that brings something.", active,
        analysis::per_cent(counts.constraints.min_probability))};
  std::uint64_t customers = 0;
  std::int64_t value = 0;
  double purchases = 0;
  for (std::size_t i = 0; i < counts.offers.size(); ++i) {
    const recommender::Offer& offer = counts.offers[i];
    customers += i == 0 || counts.offers[i - 1].customer != offer.customer ? 1U : 0U;
    value += counts.expected_value(offer);
    purchases += offer.probability;
  }
  return {
      fmt::format("{} to {} of {}: {} purchases and {} {} expected within {}.",
                  counted(counts.offers.size(), "offer"), analysis::number(customers), active,
                  analysis::number(static_cast<std::uint64_t>(std::llround(purchases))), money(counts, value),
                  value_noun(counts), analysis::days_text(counts.model.landmarks.horizon)),
      fmt::format("Clearest: {} for {}, chance {}: {}.", counts.names().title(clearest->product),
                  analysis::label_with_name(counts.input.daybook, counts.customers, clearest->customer),
                  analysis::per_cent(clearest->probability), reason(counts, *clearest)),
      fmt::format("Most is expected of {}.", product_sentence(counts, sums_by_product(counts).front()))};
}

result::Definitions definitions_of(const Counts& counts) {
  return {{"as_of", to_text(counts.as_of)},
          {"horizon", analysis::days_text(counts.options.horizon)},
          {"active",
           fmt::format("last order less than {} before as_of", analysis::days_text(counts.options.active))},
          {"chance",
           "of at least one purchase within the horizon: 1 - (1 - anyway) x (1 - what a step adds) for each "
           "step"},
          {"rate",
           "of customers in the same position on earlier days, the share that bought it within the horizon"},
          {"step", "binomial tests, q values by Benjamini and Hochberg up to 0.05"}};
}

std::vector<result::Check> checks_of(const Counts& counts) {
  bool are_new = true, are_allowed = true, are_in_stock = true, are_probabilities = true;
  std::vector<std::int64_t> offered(counts.products.distinct);
  for (const recommender::Offer& offer : counts.offers) {
    const auto history = counts.known.of(offer.customer);
    const bool is_bought =
        std::any_of(history.begin(), history.end(),
                    [&](const mining::HistoryEntry& entry) { return entry.code == offer.product; });
    const bool is_due = offer.trigger && offer.trigger->product == offer.product;
    are_new = are_new && (!is_bought || is_due);
    are_allowed = are_allowed && counts.constraints.allowed[offer.product] != 0;
    are_probabilities = are_probabilities && offer.probability > 0 && offer.probability <= 1;
    ++offered[offer.product];
  }
  if (counts.constraints.stock)
    for (std::size_t product = 0; product < offered.size(); ++product)
      are_in_stock = are_in_stock && offered[product] <= (*counts.constraints.stock)[product];
  return {{"no product is offered to who has bought it, but for those due again", are_new},
          {"no product is offered that may not be", are_allowed && are_in_stock},
          {"every chance lies between 0 and 1", are_probabilities}};
}

std::vector<std::string> notes_of(const Counts& counts) {
  const recommender::PurchaseModel& model = counts.model;
  const recommender::Landmarks& landmarks = model.landmarks;
  std::string group = "all customers are one group";
  if (counts.groups().is_split())
    group = fmt::format(
        "groups by {}{}", counts.groups().noun(),
        counts.options.group ? "" : ", which tells most about what they buy (--group chooses another)");
  std::vector<std::string> notes = {fmt::format(
      "Learned from {} between {} and {}: {} of {} pairs of products follow one another more often than by "
      "chance; {}.",
      counted(landmarks.days.size(), "earlier day"), to_text(Date{landmarks.days.front()}),
      to_text(Date{landmarks.days.back()}), analysis::number(model.steps.steps()),
      analysis::number(model.pairs_tested), group)};
  const std::string horizon = analysis::days_text(landmarks.horizon);
  notes.push_back(
      landmarks.season_day
          ? fmt::format("Season: a year before, customers bought {:.2f} times what is usual in these {}.",
                        model.rate.season(), horizon)
          : fmt::format("The data is too short to tell what the season does to the next {}.", horizon));
  if (counts.constraints.stock)
    for (std::string& note : stock_notes(counts)) notes.push_back(std::move(note));
  return notes;
}

}  // namespace pear::offers
