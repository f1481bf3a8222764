// Study files: questions that are run together, again and again. docs/study.md describes their keys.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "output/tables/result_files.hpp"

namespace pear::study {

/// One [[question]].
struct StudyQuestion {
  const analysis::Question* question = nullptr;
  std::string title;              ///< empty if the file gives none: see StudyAnswer
  std::string comment;            ///< Markdown
  analysis::OptionValues values;  ///< its own, and those of [study] that it does not set itself
  output::FilePlan files;
  std::size_t top = 10;  ///< rows shown of a table
};

struct Study {
  std::string file;
  std::string title, comment;
  std::string intake;                  ///< path of an intake file; empty if only the daybook is given
  std::string daybook;                 ///< path
  std::string folder;                  ///< the folder of all files
  std::string workbook;                ///< path; empty if none is written
  std::vector<std::string> templates;  ///< paths
  std::vector<StudyQuestion> questions;
  bool is_whole = true;  ///< whether all questions of the file are run, so that there is a report
};

/// Paths in the file are relative to its folder; the returned ones to the working folder. Errors: io; data,
/// with the line, for text that is not TOML, unknown keys (with a suggestion) and wrong options.
[[nodiscard]] OrError<Study> read_study(const std::string& path);
[[nodiscard]] OrError<Study> parse_study(std::string_view text, const std::string& path);

/// The question as an entry of a study file.
[[nodiscard]] std::string study_entry(const analysis::Question& question,
                                      const analysis::OptionValues& values);

/// Appends the entry to a study file, which is created if it is missing: with this daybook, as a path
/// relative to the study file's folder. Errors: io; data, if the file is not a study or of another daybook.
[[nodiscard]] OrError<void> save_in_study(const std::string& path, const std::string& daybook,
                                          const analysis::Question& question,
                                          const analysis::OptionValues& values);

}  // namespace pear::study
