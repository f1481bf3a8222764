// Study files: questions that are asked together, again and again. docs/study.md tells their keys.
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
  std::string title;              ///< what its own name is where the file gives none
  std::string comment;            ///< Markdown
  analysis::OptionValues values;  ///< its own, and those of [study] that it does not give itself
  output::FilePlan files;
  std::size_t top = 10;  ///< rows shown of a table
};

struct Study {
  std::string file;
  std::string title, comment;
  std::string intake;                  ///< path of an intake file; empty where the daybook is given alone
  std::string daybook;                 ///< path
  std::string folder;                  ///< where all is written
  std::string workbook;                ///< path; empty where none is wanted
  std::vector<std::string> templates;  ///< paths
  std::vector<StudyQuestion> questions;
  bool is_whole = true;  ///< whether all questions of the file are asked, so that there is a report
};

/// Paths in the file are taken from the folder that it lies in; the returned ones hold. Errors: io; data,
/// with the line, for what is not TOML, unknown keys (with a suggestion) and wrong options.
[[nodiscard]] OrError<Study> read_study(const std::string& path);
[[nodiscard]] OrError<Study> parse_study(std::string_view text, const std::string& path);

/// The question as an entry of a study file.
[[nodiscard]] std::string study_entry(const analysis::Question& question,
                                      const analysis::OptionValues& values);

/// Appends the entry to a study file, which is begun where it is missing: with this daybook, taken from the
/// folder that the study file lies in. Errors: io; data, where the file is no study or of another daybook.
[[nodiscard]] OrError<void> save_in_study(const std::string& path, const std::string& daybook,
                                          const analysis::Question& question,
                                          const analysis::OptionValues& values);

}  // namespace pear::study
