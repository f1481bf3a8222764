// Which daybook a command means.
#pragma once

#include <string>

#include "base/error.hpp"
#include "cli/command.hpp"

namespace pear::cli {

/// The first word, or the one daybook of the working folder. Error: usage, where there is none or more than
/// one.
[[nodiscard]] OrError<std::string> daybook_path(const Arguments& arguments);

}  // namespace pear::cli
