// The options of concentration.
#pragma once

#include <optional>
#include <vector>

#include "analysis/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::concentration {

struct Options {
  std::optional<expression::Tree> of;       ///< what is ranked; customers by default
  std::optional<expression::Tree> show;     ///< the figure to rank by; the sum of amounts by default
  std::vector<expression::Tree> by;         ///< a separate ranking for each value
  std::optional<expression::Tree> compare;  ///< the concentration of each value, to compare
  std::vector<std::int64_t> classes = {800'000,
                                       950'000};  ///< ends of classes A and B, units of Decimal of per cent
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Error: usage, also for options that contradict each other.
[[nodiscard]] OrError<Options> read(const analysis::OptionValues& values);

}  // namespace pear::concentration
