// Asking a question on the command line.
#pragma once

#include <string>
#include <vector>

#include "cli/command.hpp"
#include "output/result_files.hpp"
#include "question/question.hpp"

namespace pear::cli {

/// The row of the table of commands for a question.
[[nodiscard]] Command question_command(const Question& question);

/// One asking: the question, of which daybook, and where the answer goes.
struct Asking {
  std::string daybook;
  OptionValues values;
  FilePlan files;
  bool show_progress = false;  ///< on long work, where somebody looks
};

/// Loads what the question reads, asks it, writes the files. A failed check is an internal error, and nothing
/// is written then.
struct Answer {
  Result result;
  WrittenFiles files;
  std::string selection;
};
[[nodiscard]] OrError<Answer> ask(const Question& question, const Asking& asking);

/// Fails with the statements of the checks that do not hold.
[[nodiscard]] OrError<void> require_checks(const Result& result);

}  // namespace pear::cli
