// The finding of sequence: headline, definitions, notes and checks.
#pragma once

#include <string>
#include <vector>

#include "questions/sequence/counts.hpp"
#include "result/result.hpp"

namespace pear::sequence {

/// "52 to 86 days", or "10 days" if both are equal.
[[nodiscard]] std::string quartiles_text(const Transition& pair);

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
[[nodiscard]] result::Definitions definitions_of(const Counts& counts);
void add_notes(const Counts& counts, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);

}  // namespace pear::sequence
