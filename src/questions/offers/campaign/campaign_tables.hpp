// The tables and the figure of --measure.
#pragma once

#include <string>
#include <vector>

#include "analysis/tables/item_labels.hpp"
#include "expression/aggregate/grouping.hpp"
#include "questions/offers/campaign/campaign_outcome.hpp"
#include "result/figure.hpp"

namespace pear::offers {

/// Both groups, their difference, and its interval.
[[nodiscard]] result::Table groups_table(const CampaignOutcome& outcome);

[[nodiscard]] result::Table campaign_products_table(const CampaignOutcome& outcome,
                                                    const daybook::Daybook& daybook,
                                                    const expression::GroupKey& products);

/// Of the difference of each product.
[[nodiscard]] std::vector<double> q_values_of(const CampaignOutcome& outcome);

/// "34.1% of 528 offered customers bought a product offered to them, and 23.2% of 56 control customers"
[[nodiscard]] std::string share_text(const CampaignOutcome& outcome);

[[nodiscard]] result::Figure campaign_figure(const CampaignOutcome& outcome,
                                             const analysis::ItemLabels& names);

}  // namespace pear::offers
