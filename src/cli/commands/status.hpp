// The command status.
#pragma once

#include "cli/command.hpp"

namespace pear::cli {

[[nodiscard]] Command status_command();

}  // namespace pear::cli
