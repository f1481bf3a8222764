// The options of first.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::first {

struct Options {
  std::optional<expression::Tree> per;  ///< also the first purchase of each value of it, by customer
  std::vector<expression::Tree> by;     ///< columns of customers: new customers by month for each value
  std::vector<expression::Tree> with;   ///< columns of customers, shown in the rows
  std::int64_t follow = 180;   ///< days in which a customer may come back, the first order's day being day 1
  std::int64_t at_least = 20;  ///< customers of an entry product before it is compared
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

}  // namespace pear::first
