// A sample of customers, taken by the database that has them.
#pragma once

#include "base/error.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// Makes PostgreSQL send only the rows of the plan's sample, where the tables have customers' ids that the
/// plan does not clean; lines without a customer are sampled by their orders in the same database. Rows of
/// other sources are left out after reading: see keep_sampled. Errors: io, with the database's message.
[[nodiscard]] OrError<void> sample_in_databases(IntakePlan& plan);

}  // namespace pear::intake
