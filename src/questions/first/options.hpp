// The options of first.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::first {

struct Options {
  std::optional<expression::Tree> per;  ///< also the first purchase of each value of it, by customer
  std::vector<expression::Tree> by;     ///< columns of customers: new customers by month for each value
  std::int64_t follow = 180;  ///< days in which a repeat order counts; the first order's day is day 1
  std::optional<std::int64_t> run_in;  ///< days at the start of the data; chosen from the data if not given
  std::int64_t at_least = 20;          ///< customers that an entry product needs to be compared
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

}  // namespace pear::first
