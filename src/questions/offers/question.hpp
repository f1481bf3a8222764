// offers: whom to offer which product, when and why; backtested on held-out sales.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/offers/options.hpp"

namespace pear::offers {

/// The plan, or one customer's part of it with all evidence, or its backtest. Errors: usage, if an option
/// does not fit; data, if the sales are too short to learn from, nobody is active, or the stock list is
/// wrong.
[[nodiscard]] OrError<result::Result> ask(analysis::QuestionInput input, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::offers
