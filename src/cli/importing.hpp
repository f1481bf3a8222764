// Importing into a daybook file, for every command that does so.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/header_map.hpp"
#include "result/result.hpp"

namespace pear::cli {

struct ImportPlan {
  std::string source;   ///< path, or "-"
  std::string daybook;  ///< path of the daybook to write
  std::vector<RoleAssignment> assignments;
  bool show_progress = true;
};

struct ImportOutcome {
  Result report;
  std::string source_name;         ///< as messages call it
  std::vector<std::string> paths;  ///< files written
};

/// Imports, writes the daybook and NAME-rejected.csv beside it (where rows were rejected, or an older one is
/// to be replaced). Errors: usage, where the daybook's path is not one; those of the import and of the
/// writing; the old daybook is then untouched.
[[nodiscard]] OrError<ImportOutcome> import_to_file(const ImportPlan& plan);

}  // namespace pear::cli
