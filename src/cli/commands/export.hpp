// The command export.
#pragma once

#include "cli/command.hpp"

namespace pear::cli {

[[nodiscard]] Command export_command();

}  // namespace pear::cli
