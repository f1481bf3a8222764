#include "storage/page.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>
#include <limits>
#include <type_traits>

#include <fmt/format.h>
#include <xxhash.h>
#include <zstd.h>

namespace pear::storage {
namespace {

static_assert(std::endian::native == std::endian::little,
              "pages are little-endian and are copied as they are");

/// The header before the integers of a page.
struct Header {
  std::uint8_t width = 0;      // bytes a value
  std::uint8_t has_empty = 0;  // then code 0 is "no value", and all other codes are one higher
  std::array<std::uint8_t, 6> unused{};
  std::int64_t base = 0;
  std::int64_t divisor = 1;
};
static_assert(sizeof(Header) == 24);

std::uint8_t width_for(std::uint64_t largest) {
  if (largest == 0) return 0;
  if (largest <= std::numeric_limits<std::uint8_t>::max()) return 1;
  if (largest <= std::numeric_limits<std::uint16_t>::max()) return 2;
  return largest <= std::numeric_limits<std::uint32_t>::max() ? 4 : 8;
}

std::uint64_t distance(std::int64_t value, std::int64_t base) {
  return static_cast<std::uint64_t>(value) - static_cast<std::uint64_t>(base);
}

/// Calls use(divisor) with a constant, so that the compiler turns divisions into multiplications.
template <class Use>
auto with_divisor(std::int64_t divisor, Use use) {
  switch (divisor) {
    case 10'000:
      return use(std::integral_constant<std::uint64_t, 10'000>());
    case 100:
      return use(std::integral_constant<std::uint64_t, 100>());
    default:
      return use(std::integral_constant<std::uint64_t, 1>());
  }
}

template <class T>
std::int64_t common_divisor(std::span<const T> values, T empty, std::int64_t base) {
  for (const std::int64_t candidate : {10'000, 100}) {
    const bool divides_all = with_divisor(candidate, [&](auto divisor) {
      return std::all_of(values.begin(), values.end(), [&](T value) {
        return value == empty || distance(static_cast<std::int64_t>(value), base) % divisor() == 0;
      });
    });
    if (divides_all) return candidate;
  }
  return 1;
}

template <class T>
Header describe_values(std::span<const T> values, T empty) {
  Header header;
  std::int64_t smallest = std::numeric_limits<std::int64_t>::max();
  std::int64_t largest = std::numeric_limits<std::int64_t>::min();
  for (const T value : values) {
    if (value == empty) {
      header.has_empty = 1;
      continue;
    }
    smallest = std::min(smallest, static_cast<std::int64_t>(value));
    largest = std::max(largest, static_cast<std::int64_t>(value));
  }
  if (smallest > largest) return header;  // nothing but empty values
  header.base = smallest;
  if (distance(largest, smallest) > std::numeric_limits<std::uint8_t>::max())
    header.divisor = common_divisor(values, empty, smallest);
  header.width =
      width_for(distance(largest, smallest) / static_cast<std::uint64_t>(header.divisor) + header.has_empty);
  return header;
}

/// A writer other than ours may have written anything.
OrError<void> check(const Header& header) {
  if (header.has_empty > 1 || header.unused != decltype(header.unused){})
    return data_error("its header is not one of an array of integers");
  if (header.divisor != 1 && header.divisor != 100 && header.divisor != 10'000)
    return data_error(fmt::format("its divisor is {}", header.divisor));
  return {};
}

template <class Code, class T>
void put_codes(std::span<const T> values, T empty, const Header& header, char* out) {
  with_divisor(header.divisor, [&](auto divisor) {
    for (const T value : values) {
      const std::uint64_t steps = distance(static_cast<std::int64_t>(value), header.base) / divisor();
      const auto code = static_cast<Code>(value == empty ? 0 : steps + header.has_empty);
      std::memcpy(out, &code, sizeof code);
      out += sizeof code;
    }
  });
}

template <class Code, class T>
void get_codes(const char* in, const Header& header, std::span<T> values, T empty) {
  const auto base = static_cast<std::uint64_t>(header.base);
  const auto divisor = static_cast<std::uint64_t>(header.divisor);
  for (T& value : values) {
    Code code = 0;
    std::memcpy(&code, in, sizeof code);
    in += sizeof code;
    value = header.has_empty != 0 && code == 0
                ? empty
                : static_cast<T>(base + (std::uint64_t{code} - header.has_empty) * divisor);
  }
}

template <class T>
std::string encode_integers(std::span<const T> values, T empty) {
  const Header header = describe_values(values, empty);
  std::string bytes(sizeof(Header) + values.size() * header.width, '\0');
  std::memcpy(bytes.data(), &header, sizeof header);
  char* out = bytes.data() + sizeof header;
  switch (header.width) {
    case 1:
      put_codes<std::uint8_t>(values, empty, header, out);
      break;
    case 2:
      put_codes<std::uint16_t>(values, empty, header, out);
      break;
    case 4:
      put_codes<std::uint32_t>(values, empty, header, out);
      break;
    case 8:
      put_codes<std::uint64_t>(values, empty, header, out);
      break;
    default:
      break;
  }
  return bytes;
}

/// Decodes from the front of `bytes`; returns the rest of them.
template <class T>
OrError<std::string_view> decode_integers(std::string_view bytes, std::span<T> values, T empty) {
  Header header;
  if (bytes.size() < sizeof header) return data_error("it is shorter than its header");
  std::memcpy(&header, bytes.data(), sizeof header);
  bytes.remove_prefix(sizeof header);
  PEAR_TRY(check(header));
  if (bytes.size() < values.size() * header.width) return data_error("it is shorter than its values");
  switch (header.width) {
    case 0:
      std::fill(values.begin(), values.end(), header.has_empty != 0 ? empty : static_cast<T>(header.base));
      break;
    case 1:
      get_codes<std::uint8_t>(bytes.data(), header, values, empty);
      break;
    case 2:
      get_codes<std::uint16_t>(bytes.data(), header, values, empty);
      break;
    case 4:
      get_codes<std::uint32_t>(bytes.data(), header, values, empty);
      break;
    case 8:
      get_codes<std::uint64_t>(bytes.data(), header, values, empty);
      break;
    default:
      return data_error(fmt::format("its values are {} bytes wide", header.width));
  }
  return bytes.substr(values.size() * header.width);
}

Page sealed(std::uint32_t members, Codec codec, std::string bytes) {
  Page page{members, codec, 0, std::move(bytes)};
  page.checksum = XXH3_64bits(page.bytes.data(), page.bytes.size());
  return page;
}

OrError<void> check(const Page& page) {
  if (XXH3_64bits(page.bytes.data(), page.bytes.size()) == page.checksum) return {};
  return data_error("its bytes do not match their checksum");
}

OrError<std::string> decompressed(std::string_view bytes) {
  const auto size = ZSTD_getFrameContentSize(bytes.data(), bytes.size());
  if (size == ZSTD_CONTENTSIZE_ERROR || size == ZSTD_CONTENTSIZE_UNKNOWN)
    return data_error("its compressed bytes have no size");
  // Before any memory is taken: no frame of ours expands further, since a block of 128 KB takes at least 4
  // bytes.
  constexpr std::uint64_t kMostExpansion = 32'768, kFrameHeader = 18;
  if (size > kMostExpansion * (bytes.size() + kFrameHeader))
    return data_error("its compressed bytes claim an impossible size");
  std::string plain(size, '\0');
  const std::size_t got = ZSTD_decompress(plain.data(), plain.size(), bytes.data(), bytes.size());
  if (ZSTD_isError(got) != 0 || got != size) return data_error("its compressed bytes are damaged");
  return plain;
}

constexpr std::uint32_t kNoLength = std::numeric_limits<std::uint32_t>::max();

}  // namespace

template <class T>
Page encode_page(std::span<const T> values, T empty) {
  return sealed(static_cast<std::uint32_t>(values.size()), Codec::plain, encode_integers(values, empty));
}

template <class T>
OrError<void> decode_page(const Page& page, std::span<T> values, T empty) {
  PEAR_TRY(check(page));
  if (page.members != values.size())
    return data_error("it does not have the number of values that its place needs");
  if (page.codec != Codec::plain) return data_error("its integers are compressed");
  PEAR_ASSIGN(const std::string_view rest, decode_integers(page.bytes, values, empty));
  if (!rest.empty()) return data_error("it is longer than its values");
  return {};
}

template Page encode_page(std::span<const std::uint8_t>, std::uint8_t);
template Page encode_page(std::span<const std::uint32_t>, std::uint32_t);
template Page encode_page(std::span<const std::int32_t>, std::int32_t);
template Page encode_page(std::span<const std::int64_t>, std::int64_t);
template OrError<void> decode_page(const Page&, std::span<std::uint8_t>, std::uint8_t);
template OrError<void> decode_page(const Page&, std::span<std::uint32_t>, std::uint32_t);
template OrError<void> decode_page(const Page&, std::span<std::int32_t>, std::int32_t);
template OrError<void> decode_page(const Page&, std::span<std::int64_t>, std::int64_t);

Page encode_text_page(const TextArray& texts, std::size_t begin, std::size_t end) {
  std::vector<std::uint32_t> lengths;
  std::string bytes;
  for (std::size_t i = begin; i < end; ++i) {
    lengths.push_back(static_cast<std::uint32_t>(texts[i].size()));
    bytes.append(texts[i]);
  }
  const std::string plain = encode_integers<std::uint32_t>(lengths, kNoLength) + bytes;
  std::string packed(ZSTD_compressBound(plain.size()), '\0');
  const std::size_t size = ZSTD_compress(packed.data(), packed.size(), plain.data(), plain.size(), 1);
  const auto members = static_cast<std::uint32_t>(end - begin);
  if (ZSTD_isError(size) != 0 || size > plain.size() / 5 * 4) return sealed(members, Codec::plain, plain);
  packed.resize(size);
  return sealed(members, Codec::zstd, std::move(packed));
}

OrError<TextArray> decode_text_page(const Page& page) {
  PEAR_TRY(check(page));
  std::string plain;
  if (page.codec == Codec::zstd) {
    PEAR_ASSIGN(plain, decompressed(page.bytes));
  } else if (page.codec == Codec::plain) {
    plain = page.bytes;
  } else {
    return data_error(fmt::format("its codec {} is unknown", static_cast<int>(page.codec)));
  }
  std::vector<std::uint32_t> lengths(page.members);
  PEAR_ASSIGN(std::string_view bytes, decode_integers<std::uint32_t>(plain, lengths, kNoLength));
  std::uint64_t size = 0;
  for (const std::uint32_t length : lengths) size += length;
  if (size != bytes.size()) return data_error("it has another length than its texts");
  return TextArray::of_lengths(std::string(bytes), lengths);
}

}  // namespace pear::storage
