#include "storage/runs/page_file.hpp"

#include <cerrno>
#include <cstring>
#include <utility>

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

namespace pear::storage {
namespace {

tl::unexpected<Error> fault(std::string_view what, const std::string& path) {
  return io_error(fmt::format("cannot {} {}: {}.", what, path, std::strerror(errno)));
}

}  // namespace

OrError<PageFile> PageFile::create(const std::string& path) {
  const int descriptor = ::open(path.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
  if (descriptor < 0) return fault("write", path);
  return PageFile(path, descriptor);
}

PageFile::PageFile(PageFile&& other) noexcept
    : path_(std::move(other.path_)), descriptor_(std::exchange(other.descriptor_, -1)), size_(other.size_) {}

PageFile::~PageFile() {
  if (descriptor_ >= 0) close(descriptor_);
}

OrError<PagePlace> PageFile::append(const Page& page) {
  const PagePlace place{size_, static_cast<std::uint32_t>(page.bytes.size()), page.members, page.codec,
                        page.checksum};
  std::string_view rest = page.bytes;
  while (!rest.empty()) {
    const ssize_t written = ::write(descriptor_, rest.data(), rest.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return fault("write", path_);
    rest.remove_prefix(static_cast<std::size_t>(written));
  }
  size_ += page.bytes.size();
  return place;
}

OrError<Page> PageFile::read(const PagePlace& place) const {
  Page page{place.members, place.codec, place.checksum, std::string(place.bytes, '\0')};
  std::size_t done = 0;
  while (done < page.bytes.size()) {
    const ssize_t got = ::pread(descriptor_, page.bytes.data() + done, page.bytes.size() - done,
                                static_cast<off_t>(place.begin + done));
    if (got < 0 && errno == EINTR) continue;
    if (got <= 0) return fault("read", path_);
    done += static_cast<std::size_t>(got);
  }
  return page;
}

}  // namespace pear::storage
