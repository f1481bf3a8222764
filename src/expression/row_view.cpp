#include "expression/row_view.hpp"

namespace pear {

std::size_t RowView::find(std::string_view name) const {
  for (std::size_t i = 0; i < columns.size(); ++i) {
    if (columns[i].name == name) return i;
  }
  return columns.size();
}

}  // namespace pear
