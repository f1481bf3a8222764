// The figure of frequency.
#pragma once

#include <string>
#include <vector>

#include "questions/frequency/counts.hpp"
#include "result/figure.hpp"

namespace pear::frequency {

/// Customers by value, or one panel for each group; its title is the sentence of the headline that it shows.
[[nodiscard]] result::Figure figure_of(const Counts& counts, const std::vector<std::string>& headline);

}  // namespace pear::frequency
