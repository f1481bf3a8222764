#include "cli/daybook_argument.hpp"

#include <algorithm>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::cli {

OrError<std::string> daybook_path(const Arguments& arguments) {
  if (!arguments.words.empty()) return arguments.words.front();
  std::vector<std::string> found;
  std::error_code failure;
  for (const auto& entry : std::filesystem::directory_iterator(".", failure)) {
    if (entry.path().extension() == ".daybook") found.push_back(entry.path().filename().string());
  }
  std::sort(found.begin(), found.end());
  if (found.size() == 1) return found.front();
  if (found.empty())
    return usage_error("this folder holds no daybook. Name one, or make one with pear-thread import.");
  return usage_error(fmt::format("this folder holds {} daybooks ({}). Name the one you mean.", found.size(),
                                 join(found, ", ")));
}

}  // namespace pear::cli
