// Asks a question of a daybook file and writes the result: for the command line and for studies.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "analysis/question.hpp"
#include "output/tables/result_files.hpp"

namespace pear::app {

/// The question's own options and those of all questions that change the result.
[[nodiscard]] std::vector<analysis::OptionInfo> shaping_options(const analysis::Question& question);

/// --formulas and --bom of everything that writes CSV files, and their values. Error: usage.
[[nodiscard]] std::array<analysis::OptionInfo, 2> csv_options();
[[nodiscard]] OrError<output::CsvStyle> csv_style(const analysis::OptionValues& values);

/// The options of the output.
[[nodiscard]] std::vector<analysis::OptionInfo> writing_options(const analysis::Question& question);

/// The value of an option, or else a default.
[[nodiscard]] std::string value_or(const analysis::OptionValues& values, std::string_view option,
                                   const std::string& otherwise);

/// What --name, --format and --figure mean. Errors: usage.
[[nodiscard]] OrError<output::FilePlan> file_plan(const analysis::Question& question,
                                                  const analysis::OptionValues& values,
                                                  const std::string& folder);

/// The number of rows of a table that are shown. Error: usage.
[[nodiscard]] OrError<std::size_t> rows_to_show(const analysis::Question& question,
                                                const analysis::OptionValues& values);

/// Whether a question's source is an intake file, whose database answers, rather than a daybook.
[[nodiscard]] bool is_intake_file(const std::string& path);

/// One run: the question, what it is asked of, and where the result goes.
struct RunRequest {
  std::string daybook;  ///< its path, or that of an intake file
  analysis::OptionValues values;
  output::FilePlan files;
  /// The stage of the work, and how much of it is done (`all` is 0 if that is not known). From any thread,
  /// one at a time.
  std::function<void(const std::string& stage, std::uint64_t done, std::uint64_t all)> progress = {};
  std::function<void(std::string_view what)> lap = {};  ///< what has been done, for timing
};

struct Answer {
  result::Result result;
  output::WrittenFiles files;
  output::Trail trail;
};

/// Loads what the question reads, asks it, writes the files. A failed check is an internal error; then
/// nothing is written. Errors: those of the question, of the daybook file and of writing.
[[nodiscard]] OrError<Answer> run_and_write(const analysis::Question& question, const RunRequest& asking);

/// The SQL statements that a database would be asked for this question; none is run. Errors: usage, if the
/// request names a daybook and no intake file; those of the question.
[[nodiscard]] OrError<std::vector<std::string>> explain(const analysis::Question& question,
                                                        const RunRequest& request);

/// Fails with the statements of the checks that failed.
[[nodiscard]] OrError<void> require_checks(const result::Result& result);

/// The part of the command line that changes the result: the same for any number of threads and any folder.
[[nodiscard]] std::string command_text(const analysis::Question& question, const std::string& daybook,
                                       const analysis::OptionValues& values);

}  // namespace pear::app
