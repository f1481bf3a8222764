// The command import.
#pragma once

#include "cli/command.hpp"

namespace pear::cli {

[[nodiscard]] Command import_command();

}  // namespace pear::cli
