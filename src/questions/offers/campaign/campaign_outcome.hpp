// What the customers of a campaign bought during it, offered customers compared with the control group.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "analysis/question_input.hpp"
#include "questions/offers/campaign/campaign_file.hpp"
#include "statistics/group_comparison.hpp"

namespace pear::offers {

/// The customers of one group.
struct GroupOutcome {
  std::uint64_t customers = 0, offers = 0;
  std::uint64_t buyers = 0;      ///< customers who bought at least one product offered to them
  std::uint64_t ordering = 0;    ///< customers with at least one order
  statistics::RatioSums bought;  ///< products offered to the customer that the customer bought
  statistics::RatioSums value;   ///< of these products: margin, or amount without costs, in units of Decimal
  statistics::RatioSums per_offer;  ///< the same / the number of offers
  statistics::RatioSums orders;
  statistics::RatioSums all_value;  ///< of all purchases
};

/// A product of the campaign: the customers of each group who were, or would have been, offered it.
struct ProductOutcome {
  std::uint32_t product = 0;
  std::array<std::uint64_t, 2> customers{}, buyers{};  ///< offered, control
  [[nodiscard]] statistics::Difference difference() const {
    return statistics::difference_of_shares(buyers[0], customers[0], buyers[1], customers[1]);
  }
};

struct CampaignOutcome {
  Campaign campaign;
  bool has_margins = false;
  std::array<GroupOutcome, 2> groups;    ///< offered, control
  std::vector<ProductOutcome> products;  ///< by number of offered customers, most first

  [[nodiscard]] const GroupOutcome& offered() const { return groups[0]; }
  [[nodiscard]] const GroupOutcome& control() const { return groups[1]; }
};

/// A purchase is a line that is neither a return nor a fee; values are net of returns, and those of all
/// purchases contain fees. O(lines of the customers during the campaign).
[[nodiscard]] CampaignOutcome count_outcome(const analysis::QuestionInput& input, Campaign campaign);

}  // namespace pear::offers
