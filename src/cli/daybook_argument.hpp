// The daybook of a command.
#pragma once

#include <string>

#include "base/error.hpp"
#include "cli/command.hpp"

namespace pear::cli {

/// The first word, or the only daybook in the working folder. Error: usage, if there is none or more than
/// one.
[[nodiscard]] OrError<std::string> daybook_path(const Arguments& arguments);

}  // namespace pear::cli
