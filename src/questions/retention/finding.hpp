// What retention says.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "questions/retention/counts.hpp"
#include "result/result.hpp"

namespace pear::retention {

[[nodiscard]] result::Definitions definitions_of(const Options& options);

/// Repeat rates by the end of some periods; and whether newer cohorts differ from older ones.
[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts, const std::string& currency);

/// The period by whose end cohorts are compared: one by which at least four cohorts of time can be
/// compared.
/// Nothing if there is none.
[[nodiscard]] std::optional<std::size_t> compared_period(const Counts& counts);

void add_notes(const Counts& counts, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);

}  // namespace pear::retention
