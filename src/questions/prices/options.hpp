// The options of prices.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/option.hpp"
#include "base/error.hpp"
#include "questions/prices/price_comparison.hpp"

namespace pear::prices {

struct Options {
  Against against = Against::others;
  std::optional<std::int64_t> below, above;  ///< per cent of what is compared with, units of Decimal
  std::optional<std::string> product;        ///< its id, or a name that it has alone
  std::int64_t at_least = 20;                ///< customers that a product must have to be judged
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

}  // namespace pear::prices
