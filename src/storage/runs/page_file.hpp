// Pages in a scratch file, which are read again by their place.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "storage/page.hpp"

namespace pear::storage {

/// Where a page is in its file, and everything of it but its bytes.
struct PagePlace {
  std::uint64_t begin = 0;
  std::uint32_t bytes = 0;
  std::uint32_t members = 0;
  Codec codec = Codec::plain;
  std::uint64_t checksum = 0;
};

/// The pages of one array, in order.
using ArrayPages = std::vector<PagePlace>;

/// A file that is written first and read afterwards. The folder that contains it removes it. Errors: io, with
/// the path.
class PageFile {
 public:
  [[nodiscard]] static OrError<PageFile> create(const std::string& path);
  PageFile(PageFile&& other) noexcept;
  PageFile& operator=(PageFile&&) = delete;
  ~PageFile();

  [[nodiscard]] OrError<PagePlace> append(const Page& page);
  [[nodiscard]] OrError<Page> read(const PagePlace& place) const;

 private:
  PageFile(std::string path, int descriptor) : path_(std::move(path)), descriptor_(descriptor) {}
  std::string path_;
  int descriptor_;
  std::uint64_t size_ = 0;
};

}  // namespace pear::storage
