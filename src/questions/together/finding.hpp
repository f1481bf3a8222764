// The finding of together: headline, definitions, notes and checks.
#pragma once

#include <string>
#include <vector>

#include "questions/together/counts.hpp"
#include "result/result.hpp"

namespace pear::together {

/// The significant pairs, in the order of the main table.
[[nodiscard]] std::vector<const ItemPair*> found_pairs(const Counts& counts);

/// The product that the requested item is bought with.
[[nodiscard]] std::string companion_sentence(const Counts& counts);

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
[[nodiscard]] result::Definitions definitions_of(const Counts& counts);
void add_notes(const Counts& counts, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);

}  // namespace pear::together
