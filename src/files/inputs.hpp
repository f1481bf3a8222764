// The files that a command reads, which it must not overwrite.
#pragma once

#include <string>

#include "base/error.hpp"

namespace pear::files {

/// Remembers a file as an input of this command. Anything that is not a file is ignored.
void protect_input(const std::string& path);

/// Error: usage, naming both paths, if `path` is one of the inputs, also through a link; io, if something
/// other than a regular file has this name (a device, a pipe, a folder).
[[nodiscard]] OrError<void> check_output(const std::string& path);

}  // namespace pear::files
