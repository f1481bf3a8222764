// --measure: what the offers of a campaign caused, compared with its control group.
#pragma once

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/offers/options.hpp"
#include "result/result.hpp"

namespace pear::offers {

/// Errors: those of read_campaign().
[[nodiscard]] OrError<result::Result> ask_measurement(const analysis::QuestionInput& input,
                                                      const Options& options);

}  // namespace pear::offers
