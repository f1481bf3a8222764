#include "files/inputs.hpp"

#include <mutex>
#include <set>

#include <fmt/format.h>
#include <sys/stat.h>

namespace pear::files {
namespace {

struct Inputs {
  std::mutex mutex;
  std::set<std::string> paths;
};

Inputs& inputs() {
  static Inputs all;
  return all;
}

bool is_same_file(const struct stat& one, const struct stat& other) {
  return one.st_dev == other.st_dev && one.st_ino == other.st_ino;
}

}  // namespace

void protect_input(const std::string& path) {
  struct stat file {};
  if (stat(path.c_str(), &file) != 0 || !S_ISREG(file.st_mode)) return;
  const std::lock_guard lock(inputs().mutex);
  inputs().paths.insert(path);
}

OrError<void> check_output(const std::string& path) {
  struct stat file {};
  if (stat(path.c_str(), &file) != 0) return {};
  if (!S_ISREG(file.st_mode))
    return io_error(fmt::format("cannot write {}: it is not a regular file.", path));
  const std::lock_guard lock(inputs().mutex);
  for (const std::string& input : inputs().paths) {
    // Its number now: when a file has been replaced, another one may get its old number.
    struct stat now {};
    if (stat(input.c_str(), &now) == 0 && is_same_file(file, now))
      return usage_error(fmt::format(
          "cannot write {}: this command reads that file ({}). Choose another name or folder.", path, input));
  }
  return {};
}

}  // namespace pear::files
