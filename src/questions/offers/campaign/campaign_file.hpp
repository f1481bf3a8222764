// A campaign: who was offered what, and who belonged to the control group.
#pragma once

#include <cstdint>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/offers/options.hpp"

namespace pear::offers {

/// A customer of the campaign, with the products of their offers, each once.
struct CampaignMember {
  std::uint32_t customer = 0;  ///< kNoMember if there is no line of the customer
  bool is_control = false;     ///< had offers in the plan, but was not contacted
  std::vector<std::uint32_t> products;
};

struct Campaign {
  Date from, until;  ///< the days that the plan covers
  std::vector<CampaignMember> members;
  std::vector<std::uint32_t> products;  ///< of all offers, each once, in order
  std::uint64_t without_lines = 0;      ///< members
  std::uint64_t unknown_products = 0;   ///< ids of products without a line; nobody bought them
  [[nodiscard]] std::uint64_t size_of(bool is_control) const;
};

/// Reads a plan that was made with --control: a row for each offer, with the columns customer_id, product_id
/// and group (offer or control). The days are those of the columns plan_from and plan_until, unless --as-of
/// and --horizon give others. With --customers or --quiet-since only the customers that these choose. Error:
/// data, if a value is wrong, a customer is in both groups, a group is missing, or the sales end before the
/// campaign does.
[[nodiscard]] OrError<Campaign> read_campaign(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::offers
