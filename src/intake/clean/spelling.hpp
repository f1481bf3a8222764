// One spelling for each value, over all tables that contain it.
#pragma once

#include <vector>

#include "base/error.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// In the columns of the plan's fold_case, values that differ only in case become one: the spelling that most
/// rows have, over all tables with a column of that name, so that they still join; of two equally frequent
/// ones the first by code point.
void unify_spelling(const IntakePlan& plan, const std::vector<RawTable*>& tables, IntakeLog& log);

/// Replaces every id of [[same_customer]] by the first one, in all tables.
void merge_customers(const IntakePlan& plan, const std::vector<RawTable*>& tables, IntakeLog& log);

}  // namespace pear::intake
