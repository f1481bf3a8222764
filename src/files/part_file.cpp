#include "files/part_file.hpp"

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <utility>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace pear::files {
namespace {

tl::unexpected<Error> cannot_create(const std::string& path) {
  return io_error(fmt::format("cannot write {}: {}", path, std::strerror(errno)));
}

/// True where the descriptor is still the file of that name: its last writer may have renamed it meanwhile.
bool is_still(int descriptor, const std::string& path) {
  struct stat opened {};
  struct stat named {};
  return fstat(descriptor, &opened) == 0 && stat(path.c_str(), &named) == 0 &&
         opened.st_ino == named.st_ino && opened.st_dev == named.st_dev;
}

}  // namespace

PartFile::PartFile(std::string path, std::string part_path, int descriptor)
    : path_(std::move(path)), part_path_(std::move(part_path)), descriptor_(descriptor) {}

PartFile::PartFile(PartFile&& other) noexcept
    : path_(std::move(other.path_)),
      part_path_(std::move(other.part_path_)),
      descriptor_(std::exchange(other.descriptor_, -1)) {}

PartFile::~PartFile() {
  if (descriptor_ < 0) return;
  unlink(part_path_.c_str());
  close(descriptor_);
}

OrError<PartFile> PartFile::create(const std::string& path) {
  const std::string part_path = path + ".part";
  constexpr int kTries = 10;
  for (int attempt = 0; attempt < kTries; ++attempt) {
    const int descriptor = ::open(part_path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (descriptor < 0) return cannot_create(path);
    if (flock(descriptor, LOCK_EX | LOCK_NB) != 0) {
      close(descriptor);
      return io_error(
          fmt::format("cannot write {}: another import is writing it now. Wait for it to end.", path));
    }
    if (!is_still(descriptor, part_path)) {
      close(descriptor);
      continue;
    }
    if (ftruncate(descriptor, 0) != 0) {
      close(descriptor);
      return cannot_create(path);
    }
    return PartFile(path, part_path, descriptor);
  }
  return io_error(fmt::format("cannot write {}: other imports keep replacing it.", path));
}

OrError<void> PartFile::commit() {
  if (fsync(descriptor_) != 0 || std::rename(part_path_.c_str(), path_.c_str()) != 0)
    return cannot_create(path_);
  close(std::exchange(descriptor_, -1));
  std::filesystem::path folder = std::filesystem::path(path_).parent_path();
  if (folder.empty()) folder = ".";
  const int folder_descriptor = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (folder_descriptor >= 0) {
    fsync(folder_descriptor);
    close(folder_descriptor);
  }
  return {};
}

}  // namespace pear::files
