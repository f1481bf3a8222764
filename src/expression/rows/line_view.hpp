// The lines of a daybook with every column that describes them, for expressions.
#pragma once

#include <array>
#include <deque>
#include <map>
#include <mutex>
#include <set>
#include <string>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/rows/row_view.hpp"

namespace pear::expression {

/// Shows order_id, order_date, customer_id, product_id as far as they are loaded, then the daybook's other
/// columns in its order. Borrows the daybook; owns ids. Safe to use from many threads.
class LineView {
 public:
  /// `grains` names columns of lines that depend on less than the line.
  explicit LineView(const daybook::Daybook& daybook, const std::map<std::string, Grain>& grains = {});
  LineView(const LineView&) = delete;
  LineView& operator=(const LineView&) = delete;

  [[nodiscard]] const daybook::Daybook& daybook() const { return daybook_; }

  /// The columns of the lines, for names and types: rows of it may not be read.
  [[nodiscard]] const RowView& schema() const { return schema(daybook::Level::line); }
  /// The same for another level. Only columns that belong to the level itself may be read.
  [[nodiscard]] const RowView& schema(daybook::Level level) const {
    return views_.at(static_cast<std::size_t>(level));
  }

  /// A row for each line.
  [[nodiscard]] const RowView& rows() const;

  /// A row for each member of the level, with the same columns in the same positions, of which only these may
  /// be read. Columns that the level does not determine have no values there: see level_for. Memory, from the
  /// first use of an order's or a customer's column on: 4 bytes a row for each of the two.
  [[nodiscard]] const RowView& rows_of(daybook::Level level, const std::set<std::size_t>& columns) const;

  /// The level with the fewest rows that determines what depends on `grain`.
  [[nodiscard]] static daybook::Level level_for(Grain grain);

 private:
  void add(const std::string& name, daybook::Level level, const daybook::ColumnValues& values, Grain grain);
  void prepare(const std::vector<std::uint32_t>* members) const;

  const daybook::Daybook& daybook_;
  std::deque<daybook::ColumnValues> ids_;
  std::array<RowView, 4> views_;  // by level, lines first
  mutable std::vector<std::uint32_t> line_orders_, line_customers_, order_customers_;
  mutable std::once_flag line_orders_prepared_, line_customers_prepared_, order_customers_prepared_;
};

}  // namespace pear::expression
