// The tables of the backtest.
#pragma once

#include <string>

#include "recommender/backtest.hpp"
#include "result/table.hpp"

namespace pear::offers {

/// The depth that headline and figure are about: the first 3 offers to each customer.
constexpr std::size_t kHeadlineDepth = 1;

/// A row for each kind of purchase, each method, and its first 3, 1 and 5 offers to each customer.
[[nodiscard]] result::Table backtest_table(const recommender::Backtest& test);

/// A row for each range of stated probabilities.
[[nodiscard]] result::Table calibration_table(const recommender::Backtest& test);
/// A row for each third of the customers.
[[nodiscard]] result::Table customer_calibration_table(const recommender::Backtest& test);
/// "fewest purchases", "medium purchases", "most purchases"
[[nodiscard]] std::string third_text(const recommender::CalibrationGroup& group);

}  // namespace pear::offers
