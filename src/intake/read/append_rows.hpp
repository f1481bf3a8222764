// Puts the rows of two tables of the same kind together.
#pragma once

#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// Adds the rows and sources of `added` to the end of `table`. A column that only one of them has is empty in
/// the rows of the other; of two types, the values become text. O(cells).
void append_rows(RawTable& table, RawTable added);

}  // namespace pear::intake
