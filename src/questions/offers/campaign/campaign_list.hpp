// --list: the plan as a list to work from.
#pragma once

#include "questions/offers/counts.hpp"
#include "result/table.hpp"

namespace pear::offers {

/// Without the control group. For customers: a row for each customer with all offers side by side, such as a
/// mail merge needs, the customers with the largest expected value first. For products: a row for each
/// product and customer; the products with the largest expected value first, and of each the best customers
/// first.
[[nodiscard]] result::Table campaign_list(const Counts& counts, CampaignList list);

}  // namespace pear::offers
