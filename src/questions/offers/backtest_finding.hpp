// The finding of the backtest: headline and figures.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "recommender/backtest.hpp"
#include "result/figure.hpp"

namespace pear::offers {

[[nodiscard]] std::vector<std::string> backtest_headline(const recommender::Backtest& test,
                                                         const analysis::QuestionInput& input,
                                                         std::int32_t horizon);

/// Hits of each method with their intervals, and stated with observed probabilities.
[[nodiscard]] std::vector<result::Figure> backtest_figures(const recommender::Backtest& test,
                                                           std::int32_t horizon);

/// The title of the figure of stated and observed probabilities: by how much they differ in groups of 500
/// pairs or more, in the group that differs most; and whether that difference is significant.
[[nodiscard]] std::string calibration_title(const std::vector<recommender::CalibrationGroup>& groups);

}  // namespace pear::offers
