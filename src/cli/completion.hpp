// Completes command lines in a shell.
#pragma once

#include <string>
#include <vector>

namespace pear::cli {

/// What the last word may be, given those before it (without the program's name): commands, options, values
/// of options that are one of a few words, and columns of the daybook. Nothing if the shell should offer
/// files.
[[nodiscard]] std::vector<std::string> completions(const std::vector<std::string>& words);

/// The script for bash, which runs `pear-thread --complete WORDS`.
[[nodiscard]] std::string bash_completion();

}  // namespace pear::cli
