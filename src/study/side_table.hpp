// Tables that options name, read for a question.
#pragma once

#include <map>
#include <string>

#include "base/error.hpp"
#include "question/asked.hpp"
#include "question/option.hpp"

namespace pear {

/// A file as texts. Errors: as below.
[[nodiscard]] OrError<SideTable> read_side_table(const std::string& file);

/// The files that are given for options which name one, as texts. Errors: io, where one cannot be read; data,
/// where it is no table, naming the line.
[[nodiscard]] OrError<std::map<std::string, SideTable>> read_side_tables(
    const std::vector<OptionInfo>& options, const OptionValues& values);

}  // namespace pear
