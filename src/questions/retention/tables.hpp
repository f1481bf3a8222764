// The tables of retention.
#pragma once

#include "questions/retention/counts.hpp"
#include "result/table.hpp"

namespace pear::retention {

/// A row for each cohort and a column for each period: the share of customers who ordered in it.
[[nodiscard]] result::Table shares_table(const Counts& counts);
/// The same: the amount per customer from the first order to the end of the period.
[[nodiscard]] result::Table amounts_table(const Counts& counts);
/// A row for each cohort and period, with all figures.
[[nodiscard]] result::Table cells_table(const Counts& counts);

/// Of a cell; NaN for one without customers.
[[nodiscard]] double share_of(std::uint64_t part, std::uint64_t whole);
/// The amount of a customer on average, in units of Decimal, rounded to four places; empty without customers.
[[nodiscard]] std::int64_t per_customer(const DecimalSum& amount, std::uint64_t customers);

}  // namespace pear::retention
