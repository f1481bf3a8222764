// From the text of a cell to a number or a moment, in the formats of the intake file.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include <absl/container/flat_hash_map.h>
#include <tl/expected.hpp>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text_hash.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// "1.234,50" with a decimal comma and points between thousands is 1234.5. Thousands separators must be
/// followed by groups of three digits; they are optional.
[[nodiscard]] tl::expected<Decimal, DecimalFault> parse_number(std::string_view text,
                                                               const NumberFormat& format);

/// Reads moments by one of several formats of strftime codes, tried in turn; ISO 8601 if there is none.
/// Remembers what it read, because dates repeat. For one thread.
class MomentReader {
 public:
  explicit MomentReader(const std::vector<std::string>& formats) : formats_(formats) {}

  [[nodiscard]] tl::expected<Moment, DateFault> read(std::string_view text);
  /// "is not a date (YYYY-MM-DD)", "is not a date (%d.%m.%Y)".
  [[nodiscard]] std::string describe(DateFault fault) const;

 private:
  const std::vector<std::string>& formats_;
  std::string last_text_;
  Moment last_;
  absl::flat_hash_map<std::string, tl::expected<Moment, DateFault>, TextHash, std::equal_to<>> known_;
};

/// One text by one format of strftime codes: all of it must match. Days that do not exist are distinguished
/// if the format itself fits.
[[nodiscard]] tl::expected<Moment, DateFault> parse_moment(std::string_view text, const std::string& format);

}  // namespace pear::intake
