// Shares as people write them in options.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>
#include <utility>

#include "analysis/options/option.hpp"
#include "base/error.hpp"

namespace pear::analysis {

/// The share 1, in millionths: units of Decimal of per cent.
constexpr std::int64_t kWholeShare = 1'000'000;
/// The highest share of an option that has no limit: 10,000%.
constexpr std::int64_t kNoHighestShare = 100 * kWholeShare;

/// "0.05" and "5%", in millionths. A number above 1 needs the sign, because 2 could be 2% or 200%. Error:
/// usage, naming the option; also outside [lowest, highest].
[[nodiscard]] OrError<std::int64_t> parse_share(std::string_view option, std::string_view text,
                                                std::int64_t lowest = 0, std::int64_t highest = kWholeShare);

/// An option that is a share from 0 to 1.
template <class Options, class Member>
OptionDeclaration<Options> share_option(OptionInfo info, Member Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    PEAR_ASSIGN(const std::int64_t share, parse_share(name, text));
    options.*member = static_cast<double>(share) / kWholeShare;
    return {};
  };
  return {std::move(info), std::move(set)};
}

}  // namespace pear::analysis
