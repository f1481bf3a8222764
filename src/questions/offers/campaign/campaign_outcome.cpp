#include "questions/offers/campaign/campaign_outcome.hpp"

#include <algorithm>
#include <utility>

#include "daybook/columns/derived_columns.hpp"
#include "daybook/purchases.hpp"

namespace pear::offers {
namespace {

/// What one customer bought during the campaign.
struct CustomerOutcome {
  std::vector<std::uint32_t> bought;  ///< products offered to the customer, each once
  std::int64_t value = 0, all_value = 0;
  std::int64_t orders = 0;
};

class Reader {
 public:
  Reader(const daybook::Daybook& daybook, const Campaign& campaign)
      : daybook_(daybook),
        purchases_(daybook),
        margins_(daybook::known_margins(daybook)),
        campaign_(campaign) {}

  CustomerOutcome read(const CampaignMember& member) const {
    CustomerOutcome outcome;
    if (member.customer == daybook::kNoMember) return outcome;
    const daybook::Run orders = daybook_.orders_of(member.customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      const std::int32_t day = daybook_.order_days()[order];
      if (day < campaign_.from.days || day > campaign_.until.days) continue;
      outcome.orders += purchases_.is_order(order) ? 1 : 0;
      const daybook::Run lines = daybook_.lines_of(order);
      for (std::uint32_t line = lines.begin; line < lines.end; ++line) add(line, member, outcome);
    }
    std::sort(outcome.bought.begin(), outcome.bought.end());
    outcome.bought.erase(std::unique(outcome.bought.begin(), outcome.bought.end()), outcome.bought.end());
    return outcome;
  }

 private:
  void add(std::uint32_t line, const CampaignMember& member, CustomerOutcome& outcome) const {
    const std::int64_t known = margins_.empty() ? daybook_.amounts()[line] : margins_[line];
    const std::int64_t value = known == daybook::kEmptyUnits ? 0 : known;
    outcome.all_value += value;
    const std::uint32_t product = daybook_.line_products()[line];
    if (purchases_.is_fee(line) ||
        std::find(member.products.begin(), member.products.end(), product) == member.products.end())
      return;
    outcome.value += value;
    if (!purchases_.is_return(line)) outcome.bought.push_back(product);
  }

  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  std::span<const std::int64_t> margins_;
  const Campaign& campaign_;
};

void add(const CustomerOutcome& customer, const CampaignMember& member, GroupOutcome& group) {
  const auto offers = static_cast<double>(member.products.size());
  ++group.customers;
  group.offers += member.products.size();
  group.buyers += customer.bought.empty() ? 0U : 1U;
  group.ordering += customer.orders > 0 ? 1U : 0U;
  group.bought.add(static_cast<double>(customer.bought.size()));
  group.value.add(static_cast<double>(customer.value));
  group.per_offer.add(static_cast<double>(customer.value), offers);
  group.orders.add(static_cast<double>(customer.orders));
  group.all_value.add(static_cast<double>(customer.all_value));
}

}  // namespace

CampaignOutcome count_outcome(const analysis::QuestionInput& input, Campaign campaign) {
  CampaignOutcome outcome{std::move(campaign), !daybook::known_margins(input.daybook).empty(), {}, {}};
  const Reader reader(input.daybook, outcome.campaign);
  std::vector<std::size_t> places(input.daybook.products());
  for (const std::uint32_t product : outcome.campaign.products) {
    places[product] = outcome.products.size();
    outcome.products.push_back({product, {}, {}});
  }
  for (const CampaignMember& member : outcome.campaign.members) {
    const std::size_t group = member.is_control ? 1 : 0;
    const CustomerOutcome customer = reader.read(member);
    add(customer, member, outcome.groups[group]);
    for (const std::uint32_t product : member.products)
      if (product < places.size()) ++outcome.products[places[product]].customers[group];
    for (const std::uint32_t product : customer.bought) ++outcome.products[places[product]].buyers[group];
  }
  std::stable_sort(
      outcome.products.begin(), outcome.products.end(),
      [](const ProductOutcome& a, const ProductOutcome& b) { return a.customers[0] > b.customers[0]; });
  return outcome;
}

}  // namespace pear::offers
