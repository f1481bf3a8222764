// Bytes from a file or standard input, decompressed if necessary.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>

#include "base/error.hpp"

namespace pear::sources {

/// Sales lines compress to a tenth or a twentieth; only a forged file expands more than this many times.
constexpr std::uint64_t kLargestExpansion = 1'000;

/// Something that is read once from front to end. Not for several threads at once.
class ByteSource {
 public:
  virtual ~ByteSource() = default;
  ByteSource() = default;
  ByteSource(const ByteSource&) = delete;
  ByteSource& operator=(const ByteSource&) = delete;

  /// Fills `into` from its front; returns the number of bytes, 0 only at the end. Errors: io if the system
  /// cannot read, data if compressed bytes are damaged or cut short.
  [[nodiscard]] virtual OrError<std::size_t> read(std::span<char> into) = 0;

  [[nodiscard]] virtual const std::string& name() const = 0;  ///< as the user wrote it
  /// Bytes read from the disk so far, before decompression.
  [[nodiscard]] virtual std::uint64_t bytes_taken() const = 0;
  /// The total, if known (not for standard input).
  [[nodiscard]] virtual std::optional<std::uint64_t> bytes_in_all() const = 0;
  /// XXH3 (128 bits, hex) of the bytes read; of all of them once read() has returned 0.
  [[nodiscard]] virtual std::string content_hash() const = 0;
};

/// Opens a file, or standard input for "-". Recognises gzip (RFC 1952) and Zstandard (RFC 8878) by their
/// first bytes, independent of the file's name. Errors: io, naming the path and the system's reason; data,
/// while reading, for compressed data that expands to more than 1 GB and more than `largest_expansion` times
/// its size.
[[nodiscard]] OrError<std::unique_ptr<ByteSource>> open_bytes(
    const std::string& path, std::uint64_t largest_expansion = kLargestExpansion);

}  // namespace pear::sources
