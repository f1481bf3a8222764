// Help, from the declarations of commands and options.
#pragma once

#include <string>

#include "cli/command.hpp"

namespace pear::cli {

[[nodiscard]] std::string general_help();
[[nodiscard]] std::string help_of(const Command& command);

}  // namespace pear::cli
