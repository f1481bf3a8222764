#include "files/atomic_file.hpp"

#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <utility>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

namespace pear::files {
namespace {

constexpr std::size_t kBuffer = std::size_t{1} << 18U;

tl::unexpected<Error> cannot_write(const std::string& path) {
  return io_error(fmt::format("cannot write {}: {}.", path, std::strerror(errno)));
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
  close(std::exchange(descriptor_, -1));
  unlink(hidden_path_.c_str());
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
  if (std::rename(hidden_path_.c_str(), path_.c_str()) != 0) return cannot_write(path_);
  close(std::exchange(descriptor_, -1));
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
  if (failure) return io_error(fmt::format("cannot make the folder {}: {}.", path, failure.message()));
  if (access(path.c_str(), W_OK | X_OK) != 0)
    return io_error(fmt::format("cannot write in the folder {}: {}.", path, std::strerror(errno)));
  return {};
}

}  // namespace pear::files
