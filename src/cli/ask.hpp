// Asking a question on the command line.
#pragma once

#include "cli/command.hpp"
#include "question/question.hpp"

namespace pear::cli {

/// The row of the table of commands for a question.
[[nodiscard]] Command question_command(const Question& question);

}  // namespace pear::cli
