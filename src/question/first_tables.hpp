// The tables of first.
#pragma once

#include <vector>

#include "expression/line_view.hpp"
#include "question/beginnings.hpp"
#include "question/customer_groups.hpp"
#include "question/first.hpp"

namespace pear {

/// Customers who placed an order, in order of their id.
[[nodiscard]] std::vector<std::uint32_t> customers_with_order(const std::vector<Beginning>& beginnings);

/// One row for each of them. Errors: usage, see FirstOptions::with.
[[nodiscard]] OrError<Table> first_table(const LineView& lines, const std::vector<Beginning>& beginnings,
                                         const FirstOptions& options);

/// New customers of each month, from the first to the last, of all or of each group. Error: data, where the
/// amounts of a month leave the range of Decimal.
[[nodiscard]] OrError<Table> months_table(const Daybook& daybook, const std::vector<Beginning>& beginnings,
                                          const CustomerGroups& groups);
[[nodiscard]] Figure months_figure(const Table& months, const CustomerGroups& groups);

/// A row for each customer and each value of --per: when it was first bought. Errors: usage.
[[nodiscard]] OrError<Table> first_of_each(const LineView& lines, const FirstOptions& options);

/// The key of --per, or that of products.
[[nodiscard]] OrError<GroupKey> entry_key(const LineView& lines, const FirstOptions& options);

/// "product", "category": the word for a value of --per, in sentences and file names.
[[nodiscard]] std::string entry_name(const FirstOptions& options);

}  // namespace pear
