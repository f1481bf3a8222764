// Reads the tables that options name, for a question.
#pragma once

#include <map>
#include <string>

#include "analysis/options/option.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"

namespace pear::app {

/// A file as texts. Errors: as below.
[[nodiscard]] OrError<analysis::SideTable> read_side_table(const std::string& file);

/// The files given for options that name one, as texts. Errors: io, if one cannot be read; data, if it is not
/// a table, naming the line.
[[nodiscard]] OrError<std::map<std::string, analysis::SideTable>> read_side_tables(
    const std::vector<analysis::OptionInfo>& options, const analysis::OptionValues& values);

}  // namespace pear::app
