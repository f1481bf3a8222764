#include "files/atomic_file.hpp"

#include <cerrno>
#include <cstdio>
#include <cstdlib>
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

constexpr std::size_t kBuffer = std::size_t{1} << 18U;

tl::unexpected<Error> cannot_write(const std::string& path) {
  return io_error(fmt::format("cannot write {}: {}.", path, std::strerror(errno)));
}

/// Whether the descriptor is still the file of that name: its last writer may have renamed it in the
/// meantime.
bool is_still(int descriptor, const std::string& path) {
  struct stat opened {};
  struct stat named {};
  return fstat(descriptor, &opened) == 0 && stat(path.c_str(), &named) == 0 &&
         opened.st_ino == named.st_ino && opened.st_dev == named.st_dev;
}

/// Makes the new name survive a power failure. If the system cannot sync a folder, the file itself is still
/// complete.
void sync_folder(const std::string& path) {
  std::filesystem::path folder = std::filesystem::path(path).parent_path();
  if (folder.empty()) folder = ".";
  const int descriptor = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (descriptor < 0) return;
  fsync(descriptor);
  close(descriptor);
}

}  // namespace

AtomicFile::AtomicFile(std::string path, std::string hidden_path, int descriptor)
    : path_(std::move(path)), hidden_path_(std::move(hidden_path)), descriptor_(descriptor) {}

AtomicFile::AtomicFile(AtomicFile&& other) noexcept
    : path_(std::move(other.path_)),
      hidden_path_(std::move(other.hidden_path_)),
      descriptor_(std::exchange(other.descriptor_, -1)),
      buffer_(std::move(other.buffer_)) {}

AtomicFile& AtomicFile::operator=(AtomicFile&& other) noexcept {
  if (this == &other) return *this;
  discard();
  path_ = std::move(other.path_);
  hidden_path_ = std::move(other.hidden_path_);
  descriptor_ = std::exchange(other.descriptor_, -1);
  buffer_ = std::move(other.buffer_);
  return *this;
}

AtomicFile::~AtomicFile() { discard(); }

void AtomicFile::discard() {
  if (descriptor_ < 0) return;
  unlink(hidden_path_.c_str());  // before the lock is released: after that, a second writer may own the name
  close(std::exchange(descriptor_, -1));
}

OrError<AtomicFile> AtomicFile::create(const std::string& path) {
  const std::filesystem::path whole(path);
  std::string hidden = (whole.parent_path() / fmt::format(".{}.XXXXXX", whole.filename().string())).string();
  const int descriptor = mkostemp(hidden.data(), O_CLOEXEC);
  if (descriptor < 0) return cannot_write(path);
  const mode_t mask = umask(0);
  umask(mask);
  fchmod(descriptor, 0666 & ~mask);
  return AtomicFile(path, hidden, descriptor);
}

OrError<AtomicFile> AtomicFile::create_locked(const std::string& path) {
  const std::string part_path = path + ".part";
  constexpr int kTries = 10;
  for (int attempt = 0; attempt < kTries; ++attempt) {
    const int descriptor = ::open(part_path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (descriptor < 0) return cannot_write(path);
    if (flock(descriptor, LOCK_EX | LOCK_NB) != 0) {
      close(descriptor);
      return io_error(
          fmt::format("cannot write {}: another import is writing it now. Wait until it ends.", path));
    }
    if (!is_still(descriptor, part_path)) {
      close(descriptor);
      continue;
    }
    if (ftruncate(descriptor, 0) != 0) {
      close(descriptor);
      return cannot_write(path);
    }
    return AtomicFile(path, part_path, descriptor);
  }
  return io_error(fmt::format("cannot write {}: other imports keep replacing it.", path));
}

OrError<void> AtomicFile::write(std::string_view bytes) {
  buffer_.append(bytes);
  return buffer_.size() >= kBuffer ? flush() : OrError<void>{};
}

OrError<void> AtomicFile::flush() {
  std::string_view rest = buffer_;
  while (!rest.empty()) {
    const ssize_t written = ::write(descriptor_, rest.data(), rest.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return cannot_write(path_);
    rest.remove_prefix(static_cast<std::size_t>(written));
  }
  buffer_.clear();
  return {};
}

OrError<void> AtomicFile::commit() {
  PEAR_TRY(flush());
  if (fsync(descriptor_) != 0 || std::rename(hidden_path_.c_str(), path_.c_str()) != 0)
    return cannot_write(path_);
  close(std::exchange(descriptor_, -1));
  sync_folder(path_);
  return {};
}

OrError<void> write_file(const std::string& path, std::string_view bytes) {
  PEAR_ASSIGN(AtomicFile file, AtomicFile::create(path));
  PEAR_TRY(file.write(bytes));
  return file.commit();
}

OrError<void> check_writable(const std::string& path) {
  std::filesystem::path folder = std::filesystem::path(path).parent_path();
  if (folder.empty()) folder = ".";
  if (access(folder.c_str(), W_OK | X_OK) != 0) return cannot_write(path);
  return {};
}

OrError<void> make_folder(const std::string& path) {
  std::error_code failure;
  std::filesystem::create_directories(path, failure);
  if (failure) return io_error(fmt::format("cannot create the folder {}: {}.", path, failure.message()));
  if (access(path.c_str(), W_OK | X_OK) != 0)
    return io_error(fmt::format("cannot write to the folder {}: {}.", path, std::strerror(errno)));
  return {};
}

}  // namespace pear::files
