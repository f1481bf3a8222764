// The options of distinct.
#pragma once

#include <optional>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::distinct {

struct Options {
  std::optional<expression::Tree> count;  ///< what is counted; products by default
  std::vector<expression::Tree> per;      ///< one count for each of its values; one for everything if empty
  bool list = false;                      ///< also the values themselves
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

}  // namespace pear::distinct
