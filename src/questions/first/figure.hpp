// The figures of first.
#pragma once

#include <vector>

#include "questions/first/counts.hpp"
#include "result/figure.hpp"

namespace pear::first {

/// New customers by month, of all or of the largest groups; and, if two entries or more can be compared,
/// their repeat rates.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::first
