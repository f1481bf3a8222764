// Dates as people write them.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include <absl/container/flat_hash_map.h>
#include <tl/expected.hpp>

#include "base/date.hpp"
#include "base/text_hash.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// Reads moments by one of several formats, tried in turn. Remembers what it read, because dates repeat. For
/// one thread; borrows the format.
class MomentReader {
 public:
  explicit MomentReader(const MomentFormat& format) : format_(format) {}

  [[nodiscard]] tl::expected<Moment, DateFault> read(std::string_view text);
  /// "is not a date (YYYY-MM-DD)", "is not a date (%d.%m.%Y)".
  [[nodiscard]] std::string describe(DateFault fault) const;

 private:
  [[nodiscard]] tl::expected<Moment, DateFault> read_new(std::string_view text) const;
  const MomentFormat& format_;
  std::string last_text_;
  Moment last_;
  absl::flat_hash_map<std::string, tl::expected<Moment, DateFault>, TextHash, std::equal_to<>> known_;
};

/// One text by one format of strftime codes: all of it must match. Names of months and halves of the day are
/// those of English, in any case. Days that do not exist are distinguished if the format itself fits.
[[nodiscard]] tl::expected<Moment, DateFault> parse_moment(std::string_view text, const std::string& format);

}  // namespace pear::intake
