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
    return usage_error("this folder contains no daybook. Name one, or create one with pear-thread import.");
  return usage_error(fmt::format("this folder contains {} daybooks ({}). Name the one to use.", found.size(),
                                 join(found, ", ")));
}

}  // namespace pear::cli
