// The finding of the backtest: headline and figures.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "recommender/backtest.hpp"
#include "result/figure.hpp"

namespace pear::offers {

/// A sentence about new products, one about repurchases, and one about the value that was found.
[[nodiscard]] std::vector<std::string> backtest_headline(const recommender::Backtest& test,
                                                         const analysis::QuestionInput& input);

/// Hits of each method with their intervals, and stated with observed probabilities, for each kind of
/// purchase.
[[nodiscard]] std::vector<result::Figure> backtest_figures(const recommender::Backtest& test,
                                                           std::int32_t horizon);

/// How many purchases were stated and observed, and the third of customers by purchases for whom the ratio
/// differs most from 1, if significantly.
[[nodiscard]] std::string calibration_title(const recommender::KindBacktest& test);

}  // namespace pear::offers
