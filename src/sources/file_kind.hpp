// What a file is, by its first bytes.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "base/error.hpp"

namespace pear::sources {

enum class FileKind : std::uint8_t { text, archive, other };

/// `front` is the beginning of a file, 16 bytes or more if it has them. A zip archive may be a spreadsheet.
/// Other kinds than text and archives cannot be tables. Compressed text (gzip, Zstandard) counts as text.
[[nodiscard]] FileKind kind_of(std::string_view front);

/// Error: data, saying what the file is and what to do, for the beginning of a file that is not text.
[[nodiscard]] OrError<void> check_is_text(std::string_view front, const std::string& name);

/// The first bytes of a regular file; empty for anything else.
[[nodiscard]] std::string front_of_file(const std::string& path);

}  // namespace pear::sources
