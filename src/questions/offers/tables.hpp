// The tables of the plan.
#pragma once

#include <memory>

#include "questions/offers/counts.hpp"
#include "result/table.hpp"

namespace pear::offers {

/// A row for each offer. Its sentences are composed when they are read, from the counts that the table keeps.
[[nodiscard]] result::Table plan_table(const std::shared_ptr<const Counts>& kept);

/// A row for each offer: the parts of its probability.
[[nodiscard]] result::Table evidence_table(const Counts& counts);

/// A row for each product that is offered.
[[nodiscard]] result::Table products_table(const Counts& counts);

}  // namespace pear::offers
