#include "analysis/options/length_of_time.hpp"

#include <charconv>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::analysis {
namespace {

/// The days of one "day", "days", "week", ...; nothing for another word.
std::optional<double> days_of_unit(std::string_view unit) {
  constexpr double kYear = 365.2425;  // of the Gregorian calendar, on average
  if (unit.ends_with('s')) unit.remove_suffix(1);
  if (unit.empty() || unit == "day") return 1;
  if (unit == "week") return 7;
  if (unit == "month") return kYear / 12;
  if (unit == "quarter") return kYear / 4;
  if (unit == "year") return kYear;
  return std::nullopt;
}

}  // namespace

OrError<std::int64_t> parse_days(std::string_view option, std::string_view text, std::int64_t lowest,
                                 std::int64_t highest) {
  std::int64_t count = 0;
  const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), count);
  const std::string_view rest = text.substr(static_cast<std::size_t>(end - text.data()));
  const auto unit = days_of_unit(rest.starts_with(' ') ? rest.substr(1) : rest);
  const bool is_length = fault == std::errc() && unit && rest != " " && rest != "s";
  const double days = is_length ? std::round(static_cast<double>(count) * *unit) : 0;
  if (!is_length || days < static_cast<double>(lowest) || days > static_cast<double>(highest))
    return usage_error(fmt::format(
        "--{} takes a length of time from {} to {}, such as 90, \"90 days\" or \"3 months\", not {}.", option,
        lowest, counted(static_cast<std::uint64_t>(highest), "day"), in_quotes(text)));
  return static_cast<std::int64_t>(days);
}

}  // namespace pear::analysis
