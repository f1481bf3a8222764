// The command demo.
#pragma once

#include "cli/command.hpp"

namespace pear::cli {

[[nodiscard]] Command demo_command();

}  // namespace pear::cli
