// The folders of the reports of imports: NAME-import/2024-10-31-1, one for each run.
#pragma once

#include <string>

#include "base/date.hpp"
#include "base/error.hpp"

namespace pear::cli {

/// NAME-import next to the daybook.
[[nodiscard]] std::string folder_of_runs(const std::string& daybook);

/// The folder of the last run that was not interrupted, empty if there is none.
[[nodiscard]] std::string last_run(const std::string& folder_of_runs);

/// Removes what killed imports left: unfinished files, and folders without a whole report. What another
/// import is writing stays.
void remove_interrupted_runs(const std::string& folder_of_runs);

/// The folder of a new run: the day and the next number. It is created when the first file is written, and
/// removed again if the run fails.
class RunFolder {
 public:
  RunFolder(const std::string& folder_of_runs, Date today);
  ~RunFolder();
  RunFolder(const RunFolder&) = delete;
  RunFolder& operator=(const RunFolder&) = delete;

  [[nodiscard]] const std::string& path() const { return path_; }
  /// Keeps the daybook as it is now, if it exists, so that the run can be undone. It takes no space until the
  /// daybook changes. Error: io.
  [[nodiscard]] OrError<void> keep_daybook(const std::string& daybook) const;
  /// Removes the daybooks that earlier runs kept.
  void forget_older() const;

 private:
  std::string parent_;
  std::string path_;
  bool parent_existed_ = false;
};

/// Gives the daybook the state that it had before its last import, and removes the report of that import.
/// Returns what was done, in a sentence. Errors: data, if the last import cannot be undone (it created the
/// daybook, or one was undone already); io.
[[nodiscard]] OrError<std::string> undo_last_run(const std::string& daybook,
                                                 const std::string& folder_of_runs);

}  // namespace pear::cli
