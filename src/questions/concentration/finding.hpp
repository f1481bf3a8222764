// The finding of concentration: headline, definitions, notes and checks.
#pragma once

#include <string>
#include <vector>

#include "questions/concentration/counts.hpp"
#include "result/result.hpp"

namespace pear::concentration {

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
/// The amount of the few that account for 80%.
[[nodiscard]] std::vector<result::Stake> stakes_of(const Counts& counts);
[[nodiscard]] result::Definitions definitions_of(const Counts& counts);
void add_notes(const Counts& counts, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);

}  // namespace pear::concentration
