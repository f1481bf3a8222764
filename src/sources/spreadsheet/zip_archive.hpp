// Reads the files in a zip archive.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>

#include "base/error.hpp"

struct zip;
struct zip_file;

namespace pear::sources {

/// A file in an archive, decompressed from front to end. Must not outlive its archive.
class ZipMember {
 public:
  /// Fills `into` from its front; returns the number of bytes, 0 only at the end, where the checksum has been
  /// verified. Errors: data, if the compressed data is damaged, or expands to more than 1 GB and more than
  /// the archive's `largest_expansion` times its size.
  [[nodiscard]] OrError<std::size_t> read(std::span<char> into);
  /// The path of its archive.
  [[nodiscard]] const std::string& archive() const { return archive_; }

 private:
  friend class ZipArchive;
  struct Close {
    void operator()(zip_file* file) const;
  };
  ZipMember(zip_file* file, std::string archive, std::uint64_t most_bytes)
      : file_(file), archive_(std::move(archive)), most_bytes_(most_bytes) {}
  std::unique_ptr<zip_file, Close> file_;
  std::string archive_;
  std::uint64_t most_bytes_, bytes_read_ = 0;
};

class ZipArchive {
 public:
  /// Errors: io, naming the path and the reason; data, if it is not a zip archive or damaged.
  [[nodiscard]] static OrError<ZipArchive> open(const std::string& path, std::uint64_t largest_expansion);

  [[nodiscard]] const std::string& path() const { return path_; }
  [[nodiscard]] bool has(const std::string& name) const;
  /// Errors: data, if there is no such file or it is encrypted.
  [[nodiscard]] OrError<ZipMember> member(const std::string& name) const;

 private:
  struct Close {
    void operator()(zip* archive) const;
  };
  ZipArchive(std::string path, zip* archive, std::uint64_t most_bytes)
      : path_(std::move(path)), archive_(archive), most_bytes_(most_bytes) {}
  std::string path_;
  std::unique_ptr<zip, Close> archive_;
  std::uint64_t most_bytes_;
};

}  // namespace pear::sources
