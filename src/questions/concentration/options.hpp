// The options of concentration.
#pragma once

#include <optional>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::concentration {

struct Options {
  std::optional<expression::Tree> per;      ///< what is ranked; customers by default
  std::optional<expression::Tree> count;    ///< the figure to rank by; the sum of amounts by default
  std::vector<expression::Tree> by;         ///< a separate ranking for each value
  std::optional<expression::Tree> compare;  ///< the concentration of each value, to compare
  std::vector<std::int64_t> classes = {800'000,
                                       950'000};  ///< shares at which classes A and B end, in millionths
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Error: usage, also for options that contradict each other.
[[nodiscard]] OrError<Options> read(const analysis::OptionValues& values);

}  // namespace pear::concentration
