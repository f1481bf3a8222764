// The least number of baskets or customers that must contain a pattern.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "analysis/options/option.hpp"
#include "base/error.hpp"

namespace pear::mining {

/// A number of cases, or a share of them.
struct MinSupport {
  std::optional<std::int64_t> cases;
  double share = 0;

  /// As a number of cases out of this many: at least 1.
  [[nodiscard]] std::uint32_t of(std::size_t all) const;
};

/// "0.01", "1%", or, if a number of cases is allowed, "25 baskets". `noun` names the cases: "basket". Error:
/// usage.
[[nodiscard]] OrError<MinSupport> parse_support(std::string_view text, std::string_view noun);

/// The option --support of a question that mines such cases.
template <class Options>
analysis::OptionDeclaration<Options> support_option(const std::string& noun, std::string help,
                                                    std::optional<MinSupport> Options::*member) {
  return {{"support", "SHARE|\"N " + noun + "s\"", "by the data", std::move(help)},
          [noun, member](Options& options, std::string_view text) -> OrError<void> {
            PEAR_ASSIGN(options.*member, parse_support(text, noun));
            return {};
          }};
}

}  // namespace pear::mining
