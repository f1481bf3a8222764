// The finding of baskets: headline, definitions, notes and checks.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "questions/baskets/counts.hpp"
#include "result/result.hpp"

namespace pear::baskets {

/// Candidates for a promotion: those with the lowest margin rate first; without costs, the largest pull
/// first.
[[nodiscard]] std::vector<std::uint32_t> candidates(const Counts& counts);
/// How many baskets contain one item only.
[[nodiscard]] std::string sizes_sentence(const Counts& counts);
/// What the first candidate earns itself, and what the rest of its baskets earns. "" without a candidate.
[[nodiscard]] std::string pull_sentence(const Counts& counts);

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
/// What the pull of the best item brings in over all its baskets.
[[nodiscard]] std::vector<result::Stake> stakes_of(const Counts& counts);
[[nodiscard]] result::Definitions definitions_of(const Counts& counts);
void add_notes(const Counts& counts, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);

}  // namespace pear::baskets
