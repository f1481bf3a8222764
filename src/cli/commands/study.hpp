// The command study.
#pragma once

#include "cli/command.hpp"

namespace pear::cli {

[[nodiscard]] Command study_command();

}  // namespace pear::cli
