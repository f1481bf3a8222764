// frequency: how many customers ordered how often.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/bands.hpp"
#include "analysis/question.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "result/result.hpp"

namespace pear::frequency {

struct Options {
  /// Count only each customer's first N days, the day of the first order being day 1, and only customers
  /// whose N days lie wholly within the data. Days, 1 to 36,500; all days where left out.
  std::optional<std::int64_t> within;
  bool include_incomplete = false;         ///< count customers too whose window is not over
  std::optional<expression::Tree> count;   ///< an aggregate, counted for each customer in place of orders
  std::vector<analysis::ValueBand> bands;  ///< none: each number is a row of its own
  std::vector<expression::Tree> by;        ///< columns of customers
  bool list = false;                       ///< also who is in each group
};

/// Orders are distinct (customer, order id) with at least one line that is not a return. Customers who only
/// ever returned have no order and are told in a note. The data ends with the latest order date of the
/// whole daybook, or with the selection. O(lines), on all threads. Needs the columns order_date and
/// is_return. Errors: usage, where --by or --count do not fit the columns, or the values need bands.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::frequency
