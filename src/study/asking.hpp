// Asking a question of a daybook file, and writing the answer: for the command line and for studies.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "output/result_files.hpp"
#include "question/question.hpp"

namespace pear {

/// Those of the question, and those that say which lines it looks at: what shapes the answer.
[[nodiscard]] std::vector<OptionInfo> shaping_options(const Question& question);

/// Those that say what is written, for a question that gives none of them a meaning of its own.
[[nodiscard]] std::vector<OptionInfo> writing_options(const Question& question);

/// Whether a question has given a shared option a meaning of its own.
[[nodiscard]] bool has_own(const Question& question, std::string_view option);

/// The value of an option, or else.
[[nodiscard]] std::string value_or(const OptionValues& values, std::string_view option,
                                   const std::string& otherwise);

/// What --name, --format and --figure say. Errors: usage.
[[nodiscard]] OrError<FilePlan> file_plan(const Question& question, const OptionValues& values,
                                          const std::string& folder);

/// How many rows of a table are shown. Error: usage.
[[nodiscard]] OrError<std::size_t> rows_to_show(const Question& question, const OptionValues& values);

/// One asking: the question, of which daybook, and where the answer goes.
struct Asking {
  std::string daybook;
  OptionValues values;
  FilePlan files;
  std::function<void(std::uint64_t done, std::uint64_t all)> progress = {};  ///< of long work
  std::function<void(std::string_view what)> lap = {};  ///< what has been done, to be timed
};

struct Answer {
  Result result;
  WrittenFiles files;
  Trail trail;
};

/// Loads what the question reads, asks it, writes the files. A failed check is an internal error, and nothing
/// is written then. Errors: those of the question, of the daybook file and of writing.
[[nodiscard]] OrError<Answer> ask_daybook(const Question& question, const Asking& asking);

/// Fails with the statements of the checks that do not hold.
[[nodiscard]] OrError<void> require_checks(const Result& result);

/// The command line as far as it shapes the answer: the same for any number of threads and any folder.
[[nodiscard]] std::string telling_command(const Question& question, const std::string& daybook,
                                          const OptionValues& values);

}  // namespace pear
