// Tests steps against what is bought at each time of the year.
#pragma once

#include <vector>

#include "recommender/steps/step_tests.hpp"

namespace pear::recommender {

/// Tests pairs, by earlier product, once more: with the baseline of each landmark (see ProductCalendar)
/// instead of that of all time. Each keeps the larger of both p values and the smaller uplift, because
/// launches, withdrawals and seasons must not look like steps. O(landmarks x pairs of each customer) on all
/// threads.
void test_with_calendar(const Baseline& base, std::vector<std::vector<Step>>& pairs);

}  // namespace pear::recommender
