// Reads a command line.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "cli/command.hpp"

namespace pear::cli {

/// Reads words according to the command's declaration. Errors: usage, for an option that does not exist (with
/// a suggestion), one without its value or given twice, and for too many words.
[[nodiscard]] OrError<Arguments> read_arguments(const Command& command,
                                                const std::vector<std::string>& words);

}  // namespace pear::cli
