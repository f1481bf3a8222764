// The form of standard output.
#pragma once

#include <string>

#include "output/tables/terminal_writer.hpp"

namespace pear::cli {

/// Width and emphasis for standard output: those of the terminal; plain text of 100 columns elsewhere, and no
/// emphasis if NO_COLOR is set.
[[nodiscard]] output::TerminalStyle terminal_style();

/// Writes to standard output.
void print(const std::string& text);

}  // namespace pear::cli
