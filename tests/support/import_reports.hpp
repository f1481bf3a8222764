// The reports of imports.
#pragma once

#include <filesystem>
#include <string>

namespace pear::test {

/// The folder of the last run in NAME-import, for the first nine runs; "none" if there is none.
inline std::string last_report(const std::string& folder_of_runs) {
  std::string last = "none";
  std::error_code missing;
  for (const auto& entry : std::filesystem::directory_iterator(folder_of_runs, missing)) {
    const std::string path = entry.path().string();
    if (entry.is_directory() && (last == "none" || path.back() > last.back())) last = path;
  }
  return last;
}

}  // namespace pear::test
