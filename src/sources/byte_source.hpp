// Bytes from outside: a file or standard input, decompressed where it is compressed.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>

#include "base/error.hpp"

namespace pear::sources {

/// Something that is read once from front to end. Not for several threads at once.
class ByteSource {
 public:
  virtual ~ByteSource() = default;
  ByteSource() = default;
  ByteSource(const ByteSource&) = delete;
  ByteSource& operator=(const ByteSource&) = delete;

  /// Fills `into` from its front; the number of bytes put there, 0 only at the end.
  /// Errors: io where the system cannot read, data where compressed bytes are damaged or cut short.
  [[nodiscard]] virtual OrError<std::size_t> read(std::span<char> into) = 0;

  [[nodiscard]] virtual const std::string& name() const = 0;  ///< as the user wrote it
  /// Bytes taken from the disk so far, before decompression.
  [[nodiscard]] virtual std::uint64_t bytes_taken() const = 0;
  /// How many there are in all, where that is known (not for standard input).
  [[nodiscard]] virtual std::optional<std::uint64_t> bytes_in_all() const = 0;
  /// XXH3 (128 bits, hex) of the bytes taken; of all of them once read() has returned 0.
  [[nodiscard]] virtual std::string content_hash() const = 0;
};

/// Opens a file, or standard input for "-". gzip (RFC 1952) and Zstandard (RFC 8878) are known by their first
/// bytes, whatever the file is called. Errors: io, naming the path and the system's reason.
[[nodiscard]] OrError<std::unique_ptr<ByteSource>> open_bytes(const std::string& path);

}  // namespace pear::sources
