// Cohorts, combined from customers who began on the same day.
#pragma once

#include <cstdint>
#include <limits>
#include <string>
#include <vector>

#include "base/date.hpp"
#include "questions/retention/counts.hpp"

namespace pear::retention {

/// Cells that grow as far as any customer of the cohort reaches.
struct CohortState {
  std::vector<Cell> cells;
  std::int32_t finished =
      std::numeric_limits<std::int32_t>::max();  ///< periods that are over for all customers
  std::uint64_t customers = 0;
  Date begins{std::numeric_limits<std::int32_t>::max()};
};

/// Adds customers of the same first day, of whose first periods so many are over. `own` has these periods:
/// who ordered in each, who placed the second order in it, orders and amounts; the rest of its cells is
/// computed.
void add_beginners(CohortState& cohort, std::vector<Cell>& own, Date first, std::uint64_t customers);

/// Adds the counts of the same cohort.
void merge(CohortState& earlier, const CohortState& later);

/// Months, quarters or years, counted from year 0.
[[nodiscard]] std::int32_t time_of(CohortKind kind, Date day);
/// "2024-03", "2024-Q1", "2024"
[[nodiscard]] std::vector<std::string> labels_of_times(CohortKind kind, std::int32_t earliest,
                                                       std::int32_t latest);

/// Error: usage, for more periods than a table has.
[[nodiscard]] OrError<void> check_periods(const Counts& counts);

/// Cohorts with the cells that are finished, and all of them together.
void finish(std::vector<CohortState> states, const std::vector<std::string>& labels, Counts& counts);

}  // namespace pear::retention
