// Pages: the encoding of up to 65,536 values of an array as bytes. docs/daybook-format.md describes it.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "base/text_array.hpp"

namespace pear::storage {

constexpr std::size_t kPageValues = std::size_t{1} << 16U;

/// How the bytes of a segment are packed.
enum class Codec : std::uint8_t { plain = 0, zstd = 1 };

struct Page {
  std::uint32_t members = 0;
  Codec codec = Codec::plain;
  std::uint64_t checksum = 0;  ///< XXH3 (64 bits) of `bytes`
  std::string bytes;
};

/// Integers as differences from the smallest, divided by a power of ten that divides them all, in 0, 1, 2, 4
/// or 8 bytes each. `empty` is the value that means "no value". T is any of the types of the daybook's
/// arrays.
template <class T>
[[nodiscard]] Page encode_page(std::span<const T> values, T empty);

/// Decodes into `values`, whose size is the page's number of members. Error: data, saying what is wrong with
/// the bytes; the caller adds where.
template <class T>
[[nodiscard]] OrError<void> decode_page(const Page& page, std::span<T> values, T empty);

/// Texts as their lengths (integers as above) and then their bytes; zstd if it saves a fifth.
[[nodiscard]] Page encode_text_page(const TextArray& texts, std::size_t begin, std::size_t end);
[[nodiscard]] OrError<TextArray> decode_text_page(const Page& page);

}  // namespace pear::storage
