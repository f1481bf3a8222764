// The interval of a share of customers, where these are a sample.
#pragma once

#include <string>

#include <fmt/format.h>

#include "statistics/wilson_interval.hpp"

namespace pear::analysis {

/// Adds the ends of the 95% Wilson interval of a column of shares: of(row) is the part and the whole.
template <class Builder, class PartOfWhole>
void add_share_interval(Builder& builder, const std::string& share, PartOfWhole of) {
  const auto interval = [of](const auto& row) {
    const auto [part, whole] = of(row);
    return statistics::wilson_interval(part, whole);
  };
  builder.share(
      share + "_low",
      fmt::format("Lower end of the 95% Wilson interval of {}, for all customers of the shop.", share),
      [interval](const auto& row) { return interval(row).low; });
  builder.share(share + "_high", fmt::format("Upper end of the 95% Wilson interval of {}.", share),
                [interval](const auto& row) { return interval(row).high; });
}

}  // namespace pear::analysis
