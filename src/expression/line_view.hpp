// The lines of a daybook with every column that tells of them, for expressions.
#pragma once

#include <deque>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/row_view.hpp"

namespace pear {

/// Shows order_id, order_date, customer_id, product_id, then the daybook's other columns in its order, then
/// the derived ones (see derived_columns). Borrows the daybook, of which all must be loaded; holds ids and
/// derived columns itself. Memory: 12 bytes a line beside the derived columns.
class LineView {
 public:
  explicit LineView(const Daybook& daybook);
  LineView(const LineView&) = delete;
  LineView& operator=(const LineView&) = delete;

  [[nodiscard]] const RowView& rows() const { return view_; }

 private:
  void add(const std::string& name, Level level, const ColumnValues& values);
  [[nodiscard]] const std::vector<std::uint32_t>* members(Level level) const;

  std::vector<std::uint32_t> orders_, customers_, products_;  // by line
  std::deque<ColumnValues> ids_;
  std::vector<Column> derived_;
  RowView view_;
};

}  // namespace pear
