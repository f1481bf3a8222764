// The options of prices.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "questions/prices/price_comparison.hpp"

namespace pear::prices {

struct Options {
  Against against = Against::others;
  std::optional<std::int64_t> below, above;  ///< shares of what prices are compared with, in millionths
  std::optional<std::string> product;        ///< its id, or a name that only it has
  std::int64_t at_least = 20;                ///< customers that a product needs to compare its prices
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

}  // namespace pear::prices
