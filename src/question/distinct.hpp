// distinct: how many different things, of everything or of each.
#pragma once

#include <optional>
#include <vector>

#include "base/error.hpp"
#include "expression/tree.hpp"
#include "question/question.hpp"
#include "result/result.hpp"

namespace pear {

struct DistinctOptions {
  std::optional<Tree> count;  ///< what is counted; products where left out
  std::vector<Tree> per;      ///< of what; of everything where empty
  bool list = false;          ///< also which they are
};

/// Counts different values in lines that are not returns, and beside them the orders and lines that hold any,
/// so that the three are not taken for one another. Orders are told apart by customer and id. Empty values
/// are none. O(lines log lines of a customer), on all threads. Errors: usage, where an expression does not
/// fit. Needs order_date and is_return, and amount with --list.
[[nodiscard]] OrError<Result> ask_distinct(const Asked& asked, const DistinctOptions& options);

[[nodiscard]] Question distinct_question();

}  // namespace pear
