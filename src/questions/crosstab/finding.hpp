// The finding of a cross-tabulation, except its headline: definitions, checks and notes.
#pragma once

#include "questions/crosstab/counts.hpp"
#include "result/result.hpp"

namespace pear::crosstab {

[[nodiscard]] result::Definitions definitions_of(const Options& options);
void add_checks(const Counts& counts, result::Result& result);
void add_notes(const Counts& counts, result::Result& result);

}  // namespace pear::crosstab
