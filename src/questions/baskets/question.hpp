// baskets: compositions, sizes, values, and which products pull profitable baskets.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/baskets/counts.hpp"
#include "questions/baskets/options.hpp"
#include "result/result.hpp"

namespace pear::baskets {

/// Compositions of baskets with their value, sizes, and for each item its own value, the value of the rest of
/// its baskets, and its pull (see basket_value.hpp). Margins if the daybook has costs, sales otherwise.
/// Errors: usage, if --count does not fit; data, if nothing was bought.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

/// The result of counts that may come from elsewhere.
[[nodiscard]] result::Result result_of(const Counts& counts);

[[nodiscard]] analysis::Question question();

}  // namespace pear::baskets
