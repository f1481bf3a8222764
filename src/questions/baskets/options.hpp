// The options of baskets.
#pragma once

#include <cstdint>
#include <optional>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "mining/baskets.hpp"

namespace pear::baskets {

struct Options {
  mining::BasketRule within;
  std::optional<expression::Tree> items;  ///< the items, instead of products
  std::optional<std::int64_t> discount;   ///< of an item's price, in millionths
  std::int64_t at_least = 20;             ///< baskets that an item needs to be tested
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

}  // namespace pear::baskets
