// Asks a question on the command line.
#pragma once

#include "analysis/question.hpp"
#include "cli/command.hpp"

namespace pear::cli {

/// The row of the table of commands for a question.
[[nodiscard]] Command question_command(const analysis::Question& question);

}  // namespace pear::cli
