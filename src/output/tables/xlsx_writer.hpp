// Writes results as a workbook (Office Open XML, ECMA-376).
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "files/atomic_file.hpp"
#include "result/result.hpp"

namespace pear::output {

/// One result of a workbook.
struct WorkbookPart {
  std::string title;
  const result::Result* result = nullptr;
  std::string selection;              ///< in words
  std::string stem;                   ///< of its files; sheets are named after it
  std::vector<std::string> pictures;  ///< PNG files, one for each figure
};

/// A workbook that is yet to be committed: a first sheet with contents, headlines, populations, checks and
/// notes, then a sheet for each table and one for the figures of each part. Rows beyond the 1,048,575 that a
/// sheet can contain are left out, which the contents report; texts beyond 32,767 characters are cut. Text is
/// never a formula. The same parts give the same bytes. Errors: io.
[[nodiscard]] OrError<files::AtomicFile> make_workbook(const std::string& title,
                                                       const std::vector<WorkbookPart>& parts,
                                                       const std::string& path);

}  // namespace pear::output
