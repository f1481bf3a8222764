// The options of distinct.
#pragma once

#include <optional>
#include <vector>

#include "analysis/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::distinct {

struct Options {
  std::optional<expression::Tree> count;  ///< what is counted; products where left out
  std::vector<expression::Tree> per;      ///< of what; of everything where empty
  bool list = false;                      ///< also which they are
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

}  // namespace pear::distinct
