// Reads an intake file (TOML). docs/intake-file.md describes its keys.
#pragma once

#include <string>
#include <string_view>

#include "base/error.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// Reads the file; paths in it are relative to its folder, and patterns ("sales-*.csv") mean the files that
/// match them, in natural order. Errors: io; data, naming line, key and remedy.
[[nodiscard]] OrError<IntakePlan> read_intake_file(const std::string& path);

/// The same for a text; `path` is for messages and the folder.
[[nodiscard]] OrError<IntakePlan> parse_intake(std::string_view text, const std::string& path);

/// The plan for importing one flat file of lines.
[[nodiscard]] IntakePlan flat_plan(const std::string& file,
                                   std::vector<std::pair<std::string, std::string>> columns);

}  // namespace pear::intake
