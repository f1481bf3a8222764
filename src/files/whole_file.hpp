// Reads a whole file at once.
#pragma once

#include <string>

#include "base/error.hpp"

namespace pear::files {

/// All its bytes. Errors: io, naming the path and the system's reason.
[[nodiscard]] OrError<std::string> read_whole_file(const std::string& path);

/// The same for an input of this command, which it will not overwrite.
[[nodiscard]] OrError<std::string> read_input_file(const std::string& path);

}  // namespace pear::files
