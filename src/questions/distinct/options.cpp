#include "questions/distinct/options.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "base/text.hpp"

namespace pear::distinct {

analysis::OptionDeclarations<Options> option_declarations() {
  return {
      analysis::tree_option<Options>(
          {"count", "COLUMN", "product_id", "what is counted: each distinct value once"}, &Options::count),
      analysis::list_option<Options>(
          {"per", "COLUMN,...", "", "one count for each value; one for everything by default"},
          &Options::per),
      analysis::switch_option<Options>({"list", "", "", "also write the distinct values"}, &Options::list)};
}

}  // namespace pear::distinct
