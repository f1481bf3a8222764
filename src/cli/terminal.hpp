// The form of standard output.
#pragma once

#include <string>

#include "base/error.hpp"
#include "output/tables/terminal_writer.hpp"

namespace pear::cli {

/// Width and emphasis for standard output: the width of COLUMNS, or else of the terminal; elsewhere text of
/// 100 columns and tables of any width. No emphasis elsewhere, or if NO_COLOR is set.
[[nodiscard]] output::TerminalStyle terminal_style();

/// Writes to standard output. finish_output() reports what went wrong.
void print(const std::string& text);

/// Whether everything that was printed has been written. Error: io, with the system's reason; a closed pipe
/// ends the program with the exit code of its signal.
[[nodiscard]] OrError<void> finish_output();

}  // namespace pear::cli
