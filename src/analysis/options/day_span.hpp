// Days as people write them in options.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>

#include "analysis/options/option.hpp"
#include "base/date.hpp"
#include "base/error.hpp"

namespace pear::analysis {

/// Both days included.
struct DaySpan {
  Date first, last;
  bool is_relative = false;  ///< to the end of the data
};

/// "2024-04-01", "2024-04", "2024-Q2", "2024-W36", "2024"; or, relative to the end of the data: "last 12
/// months" (the 12 months that end with it), "this quarter", "last quarter" (of the calendar), "end of last
/// year", "start of this week", "30 days ago". Error: usage, naming the option.
[[nodiscard]] OrError<DaySpan> parse_day_span(std::string_view option, std::string_view text, Date data_end);

/// Such a text, which has been checked, until the end of the data is known.
struct GivenDays {
  std::string text;
  bool is_relative = false;
  /// The text must be valid.
  [[nodiscard]] DaySpan at(Date data_end) const { return *parse_day_span("", text, data_end); }
};

/// An option that is a day, or a span of days of which the question uses the first or the last.
template <class Options>
OptionDeclaration<Options> days_of_calendar_option(OptionInfo info,
                                                   std::optional<GivenDays> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    PEAR_ASSIGN(const DaySpan span, parse_day_span(name, text, date_of(2000, 1, 1)));
    options.*member = GivenDays{std::string(text), span.is_relative};
    return {};
  };
  return {std::move(info), std::move(set)};
}

}  // namespace pear::analysis
