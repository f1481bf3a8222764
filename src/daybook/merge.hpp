// Adds the sales of one daybook to another.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/line_table.hpp"

namespace pear::daybook {

/// What happens to an order that both daybooks have.
enum class RepeatedOrders : std::uint8_t {
  add_lines,  ///< it gets the added lines that it does not have yet
  /// The added order replaces the old one. They are the same by their id, or by customer and id if several
  /// customers have an order of the same id.
  replace
};

/// The lines of both, to build a daybook from, and what was decided.
struct MergedLines {
  LineTable table;
  std::uint64_t lines_there_already = 0;  ///< duplicates, left out of the added lines
  std::uint64_t lines_replaced = 0;       ///< old lines of orders that the added ones replace
  std::uint64_t orders_repeated = 0;      ///< orders in both
  std::uint64_t orders_changed = 0;       ///< of these, those whose lines differ
  std::uint64_t orders_of_others = 0;     ///< added orders whose id only other customers had so far
  std::uint64_t changed_values = 0;  ///< customers and products in both: the added daybook's value is kept
};

/// With RepeatedOrders::add_lines, a line of `added` is a duplicate if `old` has one of the same customer,
/// order, product, quantity, unit price and amount; each line of `old` matches at most one. A column that one
/// of them lacks is empty there. `master`: columns that the added sales have from lists of customers and
/// products; for a member in both, the added value is kept unless it is empty. The lines keep their own
/// values of all other columns, whose level is determined again over all lines: a column that was constant
/// for each customer so far may vary between orders now. O(lines).
[[nodiscard]] MergedLines merge_daybooks(const Daybook& old, const Daybook& added,
                                         const std::vector<std::string>& master,
                                         RepeatedOrders repeated = RepeatedOrders::add_lines);

/// The customers of `asked`, and those of `others` whom it does not have. Both need the columns quantity,
/// unit_price and amount. Error: more lines than a daybook can hold. O(lines).
[[nodiscard]] OrError<Daybook> with_other_customers(const Daybook& asked, Daybook others);

}  // namespace pear::daybook
