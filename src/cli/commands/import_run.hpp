// Imports into a daybook file, for every command that does so.
#pragma once

#include <chrono>
#include <cstdint>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/plan/intake_plan.hpp"
#include "result/result.hpp"

namespace pear::cli {

struct ImportTask {
  intake::IntakePlan plan;
  std::string daybook;  ///< path of the daybook to write
  std::string folder;   ///< the folder of the reports of all runs; NAME-import next to the daybook if empty
  std::string command;  ///< as typed, for the trail
  bool append = false;
  bool replace = false;                  ///< even if the daybook contains lines of other sources
  std::chrono::seconds longest_wait{0};  ///< for another import that is writing this daybook
  bool strict = false;
  bool accept_rejects = false;  ///< more than a tenth of the rows of a source, too
  bool dry_run = false;
  std::uint64_t memory =
      0;  ///< bytes that the program may need; 0 for any, and then nothing is sorted on disk
  bool show_progress = true;

  [[nodiscard]] std::string report_folder() const;
};

struct ImportOutcome {
  result::Result report;
  std::string selection;           ///< in words
  std::vector<std::string> paths;  ///< files written
};

/// Imports, writes the daybook, and the report into a folder of this run: import.md, its tables, each
/// rejected row and each changed cell. The daybook and the report appear together, and one import at a time
/// writes a daybook. Errors: usage, if the path is not that of a daybook, or the daybook contains lines of
/// sources that this import does not read, without `append` or `replace`; data, if there is nothing to
/// append, or if more than a tenth of the rows of a source would be rejected, without `accept_rejects`; those
/// of the import and of the writing; then the old daybook is unchanged.
[[nodiscard]] OrError<ImportOutcome> import_to_file(ImportTask task);

/// Finds duplicates as import_to_file would, and writes only the list of them.
[[nodiscard]] OrError<ImportOutcome> preview_to_file(const ImportTask& task);

}  // namespace pear::cli
