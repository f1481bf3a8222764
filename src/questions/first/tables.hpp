// The tables of first.
#pragma once

#include <vector>

#include "analysis/customer_groups.hpp"
#include "expression/rows/line_view.hpp"
#include "questions/first/first_orders.hpp"
#include "questions/first/question.hpp"

namespace pear::first {

/// Customers who placed an order, in order of their id.
[[nodiscard]] std::vector<std::uint32_t> customers_with_order(const std::vector<FirstOrders>& beginnings);

/// One row for each of them. Errors: usage, see Options::with.
[[nodiscard]] OrError<result::Table> first_table(const expression::LineView& lines,
                                                 const std::vector<FirstOrders>& beginnings,
                                                 const Options& options);

/// New customers of each month, from the first to the last, of all or of each group. Error: data, where the
/// amounts of a month leave the range of Decimal.
[[nodiscard]] OrError<result::Table> months_table(const daybook::Daybook& daybook,
                                                  const std::vector<FirstOrders>& beginnings,
                                                  const analysis::CustomerGroups& groups);
[[nodiscard]] result::Figure months_figure(const result::Table& months,
                                           const analysis::CustomerGroups& groups);

/// A row for each customer and each value of --per: when it was first bought. Errors: usage.
[[nodiscard]] OrError<result::Table> first_of_each(const expression::LineView& lines, const Options& options);

/// The key of --per, or that of products.
[[nodiscard]] OrError<expression::GroupKey> entry_key(const expression::LineView& lines,
                                                      const Options& options);

/// "product", "category": the word for a value of --per, in sentences and file names.
[[nodiscard]] std::string entry_name(const Options& options);

}  // namespace pear::first
