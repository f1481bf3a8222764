// Pages in a scratch file, which are read again by their place.
#pragma once

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "files/scratch_file.hpp"
#include "storage/page.hpp"

namespace pear::storage {

/// Where a page is in its file, and everything of it but its bytes.
struct PagePlace {
  std::uint64_t begin = 0;
  std::size_t bytes = 0;
  std::uint32_t members = 0;
  Codec codec = Codec::plain;
  std::uint64_t checksum = 0;
};

/// The pages of one array, in order.
using ArrayPages = std::vector<PagePlace>;

/// Errors: io, with the path.
class PageFile {
 public:
  [[nodiscard]] static OrError<PageFile> create(const std::string& path) {
    PEAR_ASSIGN(files::ScratchFile file, files::ScratchFile::create(path));
    return PageFile(std::move(file));
  }
  [[nodiscard]] OrError<PagePlace> append(const Page& page) {
    PEAR_ASSIGN(const std::uint64_t begin, file_.append(page.bytes));
    return PagePlace{begin, page.bytes.size(), page.members, page.codec, page.checksum};
  }
  [[nodiscard]] OrError<Page> read(const PagePlace& place) const {
    PEAR_ASSIGN(std::string bytes, file_.read(place.begin, place.bytes));
    return Page{place.members, place.codec, place.checksum, std::move(bytes)};
  }

 private:
  explicit PageFile(files::ScratchFile file) : file_(std::move(file)) {}
  files::ScratchFile file_;
};

}  // namespace pear::storage
