// Functions that SQLite lacks, by our own definitions of them.
#pragma once

#include <soci/soci.h>

namespace pear::pushdown {

/// Adds to a connection to SQLite: pear_units (a number from text), pear_product, pear_quotient, pear_text (a
/// number as text), pear_lower, pear_upper, pear_trimmed and pear_like. Each is NULL for NULL; one that
/// leaves the range of numbers, divides by zero or is given no number fails the statement.
void add_functions(soci::session& session);

}  // namespace pear::pushdown
