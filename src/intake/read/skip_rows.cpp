#include "intake/read/skip_rows.hpp"

#include <algorithm>
#include <fnmatch.h>

namespace pear::intake {
namespace {

bool fits_any(const std::string& text, const std::vector<std::string>& patterns) {
  return std::any_of(patterns.begin(), patterns.end(),
                     [&](const std::string& pattern) { return fits_pattern(text, pattern); });
}

/// The rows whose flag is set.
sources::CsvRows kept_rows(const sources::CsvRows& rows, const std::vector<bool>& kept) {
  sources::CsvRows result;
  result.columns = rows.columns;
  result.is_ascii = rows.is_ascii;
  for (std::size_t row = 0; row < rows.size(); ++row) {
    if (!kept[row]) continue;
    result.lines.push_back(rows.lines[row]);
    for (std::size_t column = 0; column < rows.columns; ++column) {
      result.bytes += rows.field(row, column);
      result.ends.push_back(static_cast<std::uint32_t>(result.bytes.size()));
      if (!rows.typed.empty()) result.typed.push_back(rows.is_typed(row, column) ? 1 : 0);
    }
  }
  return result;
}

}  // namespace

bool fits_pattern(const std::string& text, const std::string& pattern) {
  return fnmatch(pattern.c_str(), text.c_str(), 0) == 0;
}

std::uint64_t skip_rows(sources::CsvRows& rows, const std::vector<std::string>& patterns) {
  if (patterns.empty()) return 0;
  std::uint64_t skipped = std::erase_if(
      rows.malformed, [&](const sources::MalformedRow& row) { return fits_any(row.first, patterns); });
  std::vector<bool> kept(rows.size());
  for (std::size_t row = 0; row < rows.size(); ++row)
    kept[row] = !fits_any(std::string(rows.first_value(row)), patterns);
  const auto rejected = static_cast<std::uint64_t>(std::count(kept.begin(), kept.end(), false));
  if (rejected == 0) return skipped;
  auto malformed = std::move(rows.malformed);
  rows = kept_rows(rows, kept);
  rows.malformed = std::move(malformed);
  return skipped + rejected;
}

}  // namespace pear::intake
