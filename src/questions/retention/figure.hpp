// The figures of retention.
#pragma once

#include <string>
#include <vector>

#include "questions/retention/counts.hpp"
#include "result/figure.hpp"

namespace pear::retention {

/// A heat map of shares, and curves of the amount per customer so far; none before a period after the first
/// order's is finished.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts,
                                                     const std::vector<std::string>& headline);

}  // namespace pear::retention
