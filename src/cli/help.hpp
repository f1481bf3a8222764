// Help, from the same declarations that the command line is read by.
#pragma once

#include <string>

#include "cli/command.hpp"

namespace pear::cli {

[[nodiscard]] std::string general_help();
[[nodiscard]] std::string help_of(const Command& command);

}  // namespace pear::cli
