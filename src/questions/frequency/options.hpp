// The options of frequency.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/bands.hpp"
#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::frequency {

struct Options {
  /// Count only each customer's first N days, where day 1 is the day of the first order, and only customers
  /// whose N days are entirely within the data. Days, 1 to 36,500; all days by default.
  std::optional<std::int64_t> within;
  bool include_incomplete = false;  ///< include customers whose window is not over
  std::optional<expression::Tree>
      count;  ///< an aggregate, computed for each customer, to count instead of orders
  std::vector<analysis::ValueBand> bands;  ///< none: each number is a row of its own
  std::vector<expression::Tree> by;        ///< columns of customers
  bool list = false;                       ///< also each customer, those going quiet first
  std::int64_t horizon = 90;               ///< days ahead, for the share of customers who order again
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Errors: usage, for values that do not fit an option, or one another.
[[nodiscard]] OrError<Options> read_options(const analysis::OptionValues& values);

}  // namespace pear::frequency
