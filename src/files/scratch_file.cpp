#include "files/scratch_file.hpp"

#include <cerrno>
#include <cstring>
#include <utility>

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

namespace pear::files {
namespace {

tl::unexpected<Error> scratch_fault(std::string_view what, const std::string& path) {
  return io_error(fmt::format("cannot {} {}: {}. TMPDIR chooses another folder for intermediate files.", what,
                              path, std::strerror(errno)));
}

}  // namespace

OrError<ScratchFile> ScratchFile::create(const std::string& path) {
  const int descriptor = ::open(path.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
  if (descriptor < 0) return scratch_fault("write", path);
  return ScratchFile(path, descriptor);
}

ScratchFile::ScratchFile(ScratchFile&& other) noexcept
    : path_(std::move(other.path_)), descriptor_(std::exchange(other.descriptor_, -1)), size_(other.size_) {}

ScratchFile::~ScratchFile() {
  if (descriptor_ >= 0) close(descriptor_);
}

OrError<std::uint64_t> ScratchFile::append(std::string_view bytes) {
  const std::uint64_t begin = size_;
  while (!bytes.empty()) {
    const ssize_t written = ::write(descriptor_, bytes.data(), bytes.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return scratch_fault("write", path_);
    bytes.remove_prefix(static_cast<std::size_t>(written));
    size_ += static_cast<std::uint64_t>(written);
  }
  return begin;
}

OrError<std::string> ScratchFile::read(std::uint64_t begin, std::size_t bytes) const {
  std::string text(bytes, '\0');
  std::size_t done = 0;
  while (done < bytes) {
    const ssize_t got =
        ::pread(descriptor_, text.data() + done, bytes - done, static_cast<off_t>(begin + done));
    if (got < 0 && errno == EINTR) continue;
    if (got <= 0) return scratch_fault("read", path_);
    done += static_cast<std::size_t>(got);
  }
  return text;
}

}  // namespace pear::files
