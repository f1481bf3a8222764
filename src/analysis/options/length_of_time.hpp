// Lengths of time as people write them in options.
#pragma once

#include <cstdint>
#include <string_view>
#include <utility>

#include "analysis/options/option.hpp"
#include "base/error.hpp"

namespace pear::analysis {

/// "90", "90 days", "2 weeks", "3 months", "1 year", in days. A month counts as a twelfth of 365.2425 days,
/// so 3 months are 91 days. Error: usage, naming the option; also outside [lowest, highest] days.
[[nodiscard]] OrError<std::int64_t> parse_days(std::string_view option, std::string_view text,
                                               std::int64_t lowest, std::int64_t highest);

/// An option that is a length of time, in days; its member may be optional.
template <class Options, class Member>
OptionDeclaration<Options> days_option(OptionInfo info, Member Options::*member, std::int64_t lowest,
                                       std::int64_t highest) {
  auto set = [name = info.name, member, lowest, highest](Options& options,
                                                         std::string_view text) -> OrError<void> {
    PEAR_ASSIGN(options.*member, parse_days(name, text, lowest, highest));
    return {};
  };
  return {std::move(info), std::move(set)};
}

}  // namespace pear::analysis
