// A file for intermediate data: written first, read afterwards.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "base/error.hpp"

namespace pear::files {

/// Grows at its end, and is read at any place. The scratch folder that contains it removes it. Errors: io,
/// with the path.
class ScratchFile {
 public:
  [[nodiscard]] static OrError<ScratchFile> create(const std::string& path);
  ScratchFile(ScratchFile&& other) noexcept;
  ScratchFile& operator=(ScratchFile&&) = delete;
  ~ScratchFile();

  /// Returns where the bytes begin.
  [[nodiscard]] OrError<std::uint64_t> append(std::string_view bytes);
  /// Several threads may read at once.
  [[nodiscard]] OrError<std::string> read(std::uint64_t begin, std::size_t bytes) const;

 private:
  ScratchFile(std::string path, int descriptor) : path_(std::move(path)), descriptor_(descriptor) {}
  std::string path_;
  int descriptor_;
  std::uint64_t size_ = 0;
};

}  // namespace pear::files
