// The finding of distinct: headline, notes and checks.
#pragma once

#include <string>
#include <vector>

#include "questions/distinct/counts.hpp"
#include "result/result.hpp"

namespace pear::distinct {

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
/// Need the population of the result.
void add_notes(const Counts& counts, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);

}  // namespace pear::distinct
