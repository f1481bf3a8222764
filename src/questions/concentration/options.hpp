// The options of concentration.
#pragma once

#include <optional>
#include <vector>

#include "analysis/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::concentration {

struct Options {
  std::optional<expression::Tree> of;    ///< whose shares are looked at; customers where left out
  std::optional<expression::Tree> show;  ///< the figure that is shared out; the sum of amounts where left out
  std::vector<expression::Tree> by;      ///< a ranking of its own for each value
  std::optional<expression::Tree> compare;  ///< the same for each value of it, in short: whether it grows
  std::vector<std::int64_t> classes = {800'000,
                                       950'000};  ///< ends of classes A and B, units of Decimal of per cent
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Error: usage, also for options that contradict each other.
[[nodiscard]] OrError<Options> read(const analysis::OptionValues& values);

}  // namespace pear::concentration
