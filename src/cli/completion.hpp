// Completing command lines in a shell.
#pragma once

#include <string>
#include <vector>

namespace pear::cli {

/// What may stand in place of the last word, given those before it (without the program's name): commands,
/// options, values of options that are one of a few words, and columns of the daybook. Nothing where the
/// shell had better offer files.
[[nodiscard]] std::vector<std::string> completions(const std::vector<std::string>& words);

/// The script for bash, which asks `pear-thread --complete WORDS`.
[[nodiscard]] std::string bash_completion();

}  // namespace pear::cli
