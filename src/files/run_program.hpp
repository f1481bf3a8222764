// Runs another program.
#pragma once

#include <chrono>
#include <string>
#include <vector>

#include "base/error.hpp"

namespace pear::files {

enum class ProgramEnd { well, badly, not_found, too_slow };

/// Runs a program found on the PATH in a folder, without a shell; its standard output and error go to a file
/// there. Waits for its end, but ends it after `longest`. Error: io if no process can be created.
[[nodiscard]] OrError<ProgramEnd> run_program(const std::vector<std::string>& words,
                                              const std::string& folder, const std::string& messages,
                                              std::chrono::seconds longest);

}  // namespace pear::files
