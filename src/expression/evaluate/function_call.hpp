// Calls of functions and aggregates, as written.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

struct FunctionCall {
  std::string name;  ///< in lower case
  std::size_t at = 0;
  bool star = false;      ///< COUNT(*)
  bool distinct = false;  ///< COUNT(DISTINCT x)
  bool is_over = false;
  bool has_within_group = false;  ///< WITHIN GROUP (ORDER BY x)
  std::vector<Node> args, filter, partition, order;
};

/// The node that a call means. Errors: usage, for an unknown function, too few or too many values, and parts
/// that only an aggregate may have.
[[nodiscard]] OrError<Node> called_function(FunctionCall call);

}  // namespace pear::expression
