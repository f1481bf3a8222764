// The keys of [lines] and the like, or of one [[lines.from]]: where its rows are and how they are read.
#pragma once

#include <string>

#include "files/toml_section.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// Paths are relative to the intake file. Faults go to the section.
[[nodiscard]] SourcePlan read_source_section(files::TomlSection& section, const std::string& intake_file);

}  // namespace pear::intake
