#include "mining/min_support.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "analysis/options/share.hpp"
#include "base/decimal.hpp"
#include "base/text.hpp"

namespace pear::mining {

std::uint32_t MinSupport::of(std::size_t all) const {
  if (cases) return static_cast<std::uint32_t>(*cases);
  return static_cast<std::uint32_t>(std::max(1.0, std::ceil(share * static_cast<double>(all) - 1e-9)));
}

OrError<MinSupport> parse_support(std::string_view text, std::string_view noun) {
  for (const std::string& word : {fmt::format(" {}s", noun), fmt::format(" {}", noun)}) {
    if (!text.ends_with(word)) continue;
    PEAR_ASSIGN(
        const std::int64_t cases,
        analysis::parse_whole("support", text.substr(0, text.size() - word.size()), 1, 1'000'000'000));
    return MinSupport{cases, 0};
  }
  const auto share = analysis::parse_share("support", text, 1);
  if (!share)
    return usage_error(fmt::format("{} Or give a number such as \"25 {}s\".", share.error().message, noun));
  return MinSupport{{}, static_cast<double>(*share) / analysis::kWholeShare};
}

}  // namespace pear::mining
