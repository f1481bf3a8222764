#include "files/scratch_folder.hpp"

#include <cstdlib>
#include <filesystem>
#include <string_view>

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

namespace pear::files {
namespace {

constexpr std::string_view kPrefix = "pear-thread-scratch-";
constexpr std::size_t kRandomPart = 6;

/// A descriptor of the folder, locked; -1 if somebody else has it locked, or removed it before it was locked.
int lock_of(const std::string& folder) {
  const int descriptor = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC | O_NOFOLLOW);
  std::error_code failure;
  if (descriptor < 0 ||
      (flock(descriptor, LOCK_EX | LOCK_NB) == 0 && std::filesystem::exists(folder, failure)))
    return descriptor;
  close(descriptor);
  return -1;
}

/// Removes the folders of programs that were killed: no process has them locked.
void remove_old_folders(const std::filesystem::path& temporary) {
  std::error_code ignored;
  for (const auto& entry : std::filesystem::directory_iterator(temporary, ignored)) {
    const std::string name = entry.path().filename().string();
    if (!name.starts_with(kPrefix) || name.size() != kPrefix.size() + kRandomPart) continue;
    const int descriptor = lock_of(entry.path().string());
    if (descriptor < 0) continue;
    std::filesystem::remove_all(entry.path(), ignored);
    close(descriptor);
  }
}

}  // namespace

ScratchFolder::ScratchFolder() {
  std::error_code failure;
  const std::filesystem::path temporary = std::filesystem::temp_directory_path(failure);
  if (failure) return;
  remove_old_folders(temporary);
  const auto uninterrupted = no_interruption();  // until the folder is known as unfinished
  constexpr int kTries = 10;                     // another program may remove the folder before it is locked
  for (int attempt = 0; attempt < kTries && lock_ < 0; ++attempt) {
    std::string name = (temporary / kPrefix).string() + std::string(kRandomPart, 'X');
    if (mkdtemp(name.data()) == nullptr) return;
    lock_ = lock_of(name);
    if (lock_ >= 0) path_ = name;
  }
  if (!path_.empty()) unfinished_ = Unfinished(path_);
}

ScratchFolder::~ScratchFolder() {
  std::error_code ignored;
  if (!path_.empty()) std::filesystem::remove_all(path_, ignored);
  if (lock_ >= 0) close(lock_);
}

}  // namespace pear::files
