// Running another program.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"

namespace pear {

enum class ProgramEnd { well, badly, not_found };

/// Runs a program found on the PATH, without a shell, its standard output and error going to a file; waits for its
/// end. Error: io where no process can be made.
[[nodiscard]] OrError<ProgramEnd> run_program(const std::vector<std::string>& words, const std::string& messages);

}  // namespace pear
