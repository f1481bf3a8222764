// The command inspect.
#pragma once

#include "cli/command.hpp"

namespace pear::cli {

[[nodiscard]] Command inspect_command();

}  // namespace pear::cli
