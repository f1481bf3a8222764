// The backtest of offers: the plan compared with baselines on held-out sales.
#pragma once

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/offers/options.hpp"
#include "result/result.hpp"

namespace pear::offers {

/// The result of --test. Error: data, if there is too little before a cut, or nobody was active.
[[nodiscard]] OrError<result::Result> ask_backtest(const analysis::QuestionInput& input,
                                                   const Options& options);

}  // namespace pear::offers
