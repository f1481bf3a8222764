// The tables of the backtest.
#pragma once

#include "recommender/backtest.hpp"
#include "result/table.hpp"

namespace pear::offers {

/// The depth that headline and figure are about: the first 3 offers to each customer.
constexpr std::size_t kHeadlineDepth = 1;

/// A row for each method, and its first 1, 3 and 5 offers to each customer.
[[nodiscard]] result::Table backtest_table(const recommender::Backtest& test);

/// A row for each range of stated probabilities.
[[nodiscard]] result::Table calibration_table(const recommender::Backtest& test);

}  // namespace pear::offers
