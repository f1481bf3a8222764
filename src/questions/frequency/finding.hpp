// The finding of frequency: headline, notes, checks and definitions.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "questions/frequency/counts.hpp"
#include "result/result.hpp"

namespace pear::frequency {

/// Whether the groups had unequal times to order: customers with years are not compared with customers with
/// weeks.
[[nodiscard]] bool is_unfair(const Counts& counts);

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);

/// How many customers are quiet, and what is at stake. Needs counts.quiet.
[[nodiscard]] std::string quiet_sentence(const Counts& counts, std::string_view currency);
/// What these customers spent, as the stake of a sentence.
[[nodiscard]] std::vector<result::Stake> stakes_of(const Counts& counts, std::size_t sentence);

void add_notes(const Counts& counts, Date data_end, result::Result& result);
/// Needs the population and the first table of the result.
void add_checks(const Counts& counts, result::Result& result);
[[nodiscard]] result::Definitions definitions_of(const Options& options);

}  // namespace pear::frequency
