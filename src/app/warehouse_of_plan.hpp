// A database that answers questions itself, from an intake file.
#pragma once

#include <string>

#include "base/error.hpp"
#include "intake/plan/intake_plan.hpp"
#include "pushdown/session.hpp"
#include "pushdown/warehouse.hpp"

namespace pear::app {

/// The database of the lines. Errors: usage, for an intake file whose lines are not in a database, whose
/// tables are in several, or that cleans: the key that needs the rows on this side is named.
[[nodiscard]] OrError<database::DatabaseAddress> database_of(const intake::IntakePlan& plan);

/// The tables, joins and columns. Looks at the columns of each table, but at no row. Errors: usage, for a
/// role that no table has; io, with the database's message.
[[nodiscard]] OrError<pushdown::Warehouse> warehouse_of(const intake::IntakePlan& plan,
                                                        pushdown::Session& session);

}  // namespace pear::app
