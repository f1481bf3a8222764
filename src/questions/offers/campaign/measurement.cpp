#include "questions/offers/campaign/measurement.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/item_labels.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/campaign/campaign_outcome.hpp"
#include "questions/offers/campaign/campaign_tables.hpp"
#include "statistics/significance.hpp"

namespace pear::offers {
namespace {

std::string money(double units, const std::string& currency) {
  return analysis::rounded_money_text(std::llround(units), currency);
}

std::string share_sentence(const CampaignOutcome& outcome) {
  const GroupOutcome &offered = outcome.offered(), &control = outcome.control();
  const statistics::Difference difference =
      statistics::difference_of_shares(offered.buyers, offered.customers, control.buyers, control.customers);
  return fmt::format(
      "{}: {:.1f} points {}, {} (95% interval {:.1f} to {:.1f}).", share_text(outcome),
      100 * std::abs(difference.value), difference.value < 0 ? "fewer" : "more",
      difference.is_significant() ? "a significant difference" : "not a significant difference",
      100 * difference.interval.low, 100 * difference.interval.high);
}

std::string value_sentence(const CampaignOutcome& outcome, const std::string& currency) {
  const statistics::Difference difference =
      statistics::difference_of_ratios(outcome.offered().per_offer, outcome.control().per_offer);
  const auto offers = static_cast<double>(outcome.offered().offers);
  const std::string noun = outcome.has_margins ? "margin" : "sales";
  if (std::isnan(difference.interval.low))
    return fmt::format("The effect on {} has no interval: a group has only one customer.", noun);
  const std::string interval = fmt::format("95% interval {} to {}", money(difference.interval.low, currency),
                                           money(difference.interval.high, currency));
  if (!difference.is_significant())
    return fmt::format("No significant effect on the {} of the offered products: {} per offer ({}).", noun,
                       money(difference.value, currency), interval);
  return fmt::format("The offers {} {} {} of the offered products: {} per offer ({}).",
                     difference.value > 0 ? "caused" : "cost",
                     money(std::abs(difference.value) * offers, currency), noun,
                     money(difference.value, currency), interval);
}

/// Of the products with a significant difference, the one with the largest; nothing if there is none.
std::vector<std::string> product_sentence(const CampaignOutcome& outcome, const analysis::ItemLabels& names) {
  const std::vector<double> q_values = q_values_of(outcome);
  const ProductOutcome* largest = nullptr;
  for (std::size_t i = 0; i < outcome.products.size(); ++i) {
    const ProductOutcome& product = outcome.products[i];
    if (q_values[i] <= statistics::kFalseDiscovery &&
        (largest == nullptr || std::abs(product.difference().value) > std::abs(largest->difference().value)))
      largest = &product;
  }
  if (largest == nullptr) return {};
  const auto share = [&](std::size_t group) {
    return analysis::per_cent(largest->buyers[group], largest->customers[group]);
  };
  return {fmt::format(
      "Largest significant difference: {}, bought by {} of the offered and {} of the control customers.",
      names.title(largest->product), share(0), share(1))};
}

result::Check check_of(const CampaignOutcome& outcome) {
  bool fits = true;
  std::uint64_t customers = 0, listed = 0, offers = 0;
  for (const GroupOutcome& group : outcome.groups) {
    customers += group.customers;
    offers += group.offers;
    fits = fits && group.buyers <= group.ordering && group.ordering <= group.customers;
  }
  for (const ProductOutcome& product : outcome.products)
    for (std::size_t group = 0; group < outcome.groups.size(); ++group) {
      listed += product.customers[group];
      fits = fits && product.buyers[group] <= product.customers[group];
    }
  if (outcome.campaign.unknown_products == 0) fits = fits && listed == offers;
  return {
      fmt::format("both groups add up to all {} of the campaign; no product has more buyers than customers",
                  counted(customers, "customer")),
      fits && customers == outcome.campaign.members.size()};
}

std::vector<std::string> notes_of(const CampaignOutcome& outcome) {
  const Campaign& campaign = outcome.campaign;
  std::vector<std::string> notes = {fmt::format(
      "Both groups are compared over the {} from {} to {}. They differ only by the offers, because "
      "the control group is random.",
      analysis::days_text(days_between(campaign.from, campaign.until) + 1), to_text(campaign.from),
      to_text(campaign.until))};
  if (campaign.without_lines > 0)
    notes.push_back(
        fmt::format("{} of the campaign {} no lines here, and {} as having bought nothing. To "
                    "compare only some customers, use --customers.",
                    counted(campaign.without_lines, "customer"), campaign.without_lines == 1 ? "has" : "have",
                    campaign.without_lines == 1 ? "counts" : "count"));
  if (campaign.unknown_products > 0)
    notes.push_back(fmt::format("{} of the campaign {} no lines here, and {} as not bought.",
                                counted(campaign.unknown_products, "product"),
                                campaign.unknown_products == 1 ? "has" : "have",
                                campaign.unknown_products == 1 ? "counts" : "count"));
  return notes;
}

}  // namespace

OrError<result::Result> ask_measurement(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(Campaign campaign, read_campaign(input, options));
  const CampaignOutcome outcome = count_outcome(input, std::move(campaign));
  const expression::GroupKey products = analysis::id_key(input.daybook, daybook::Level::product);
  const analysis::ItemLabels names{input.daybook, products, "product"};
  result::Result result;
  result.headline = {share_sentence(outcome), value_sentence(outcome, input.currency)};
  for (std::string& sentence : product_sentence(outcome, names))
    result.headline.push_back(std::move(sentence));
  result.tables = {groups_table(outcome), campaign_products_table(outcome, input.daybook, products)};
  result.figures = {campaign_figure(outcome, names)};
  result.definitions = {
      {"offered customer", "has rows of the group offer"},
      {"control customer", "has rows of the group control: offers in the plan, but was not contacted"},
      {"intervals", "95%: shares by Newcombe's method 10, means and ratios by Welch's t"},
      {"q_value", "Fisher's exact test, two-sided; q values by Benjamini and Hochberg over all products"}};
  result.checks = {check_of(outcome)};
  result.notes = notes_of(outcome);
  if (!input.chosen_customers.empty())
    result.notes.emplace_back("Only the customers that --customers or --quiet-since chooses are compared.");
  return result;
}

}  // namespace pear::offers
