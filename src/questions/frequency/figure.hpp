// The figure of frequency.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "questions/frequency/counts.hpp"
#include "result/figure.hpp"

namespace pear::frequency {

/// Customers by value, or one panel for each group; its title is the sentence of the headline that it shows.
[[nodiscard]] result::Figure figure_of(const Counts& counts, const std::vector<std::string>& headline);

/// The share of customers who have ordered again, day by day after an order, by the number of the order.
/// Nothing if no order was followed by another. Needs counts.quiet.
[[nodiscard]] std::optional<result::Figure> waiting_figure(const Counts& counts);

}  // namespace pear::frequency
