// frequency: how many customers ordered how often.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/frequency/counts.hpp"
#include "questions/frequency/options.hpp"
#include "result/result.hpp"

namespace pear::frequency {

/// Orders are distinct (customer, order id) with at least one line that is not a return. Customers with
/// returns only have no order and are counted in a note. The data ends with the latest order date of the
/// whole daybook, or with the selection. O(lines), on all threads. Needs the columns order_date and
/// is_return. Errors: usage, if --by or --count do not fit the columns, or the values need bands.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

/// The result of counts that may come from elsewhere: of the input, its daybook is not read.
[[nodiscard]] OrError<result::Result> result_of(const Counts& counts, const analysis::QuestionInput& input);

[[nodiscard]] analysis::Question question();

}  // namespace pear::frequency
