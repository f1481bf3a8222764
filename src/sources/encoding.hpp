// Character encodings.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "sources/byte_source.hpp"

namespace pear::sources {

enum class Encoding : std::uint8_t { utf8, utf16, utf16_le, utf16_be, windows_1252, iso_8859_1 };

/// As an intake file writes it: "UTF-8", "Windows-1252".
[[nodiscard]] std::string_view to_text(Encoding encoding);
/// The known names, for messages.
[[nodiscard]] std::vector<std::string> encoding_names();
/// Reads such a name, in upper or lower case; nothing for any other.
[[nodiscard]] std::optional<Encoding> parse_encoding(std::string_view name);

/// Counts what distinguishes encodings, over a text that arrives piece by piece.
class EncodingWitness {
 public:
  void see(std::string_view bytes);
  /// UTF-16 by its byte order mark or by the positions of its zero bytes; UTF-8 if all bytes fit, or so many
  /// that the rest must be damage; otherwise Windows-1252, which has all the letters of ISO-8859-1 in the
  /// same places.
  [[nodiscard]] Encoding verdict() const;

 private:
  std::string front_;  // the first bytes, which may be a byte order mark
  std::string cut_;    // a character that the last piece cut
  std::uint64_t bytes_ = 0;
  std::uint64_t zeros_[2] = {0, 0};  // at even and at odd places
  std::uint64_t whole_ = 0;          // characters of several bytes that are UTF-8
  std::uint64_t broken_ = 0;         // bytes that are not
};

/// The source's text as UTF-8. Bytes that are not a character become U+FFFD.
[[nodiscard]] std::unique_ptr<ByteSource> decoded(std::unique_ptr<ByteSource> source, Encoding encoding);

struct TextSource {
  std::unique_ptr<ByteSource> bytes;  ///< UTF-8, with or without its mark
  Encoding encoding = Encoding::utf8;
};

/// Opens a file (see open_bytes) as text. Detects the encoding if it is not given: from the whole file up to
/// 200 MB, otherwise from the first 200 MB; from its beginning if it is not a file (standard input, a pipe).
[[nodiscard]] OrError<TextSource> open_text(const std::string& path, std::optional<Encoding> encoding,
                                            std::uint64_t largest_expansion = kLargestExpansion);

}  // namespace pear::sources
