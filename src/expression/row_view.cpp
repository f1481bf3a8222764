#include "expression/row_view.hpp"

namespace pear {

Grain grain_of(Level level) {
  switch (level) {
    case Level::customer:
      return grain::kCustomer;
    case Level::order:
      return grain::kOrder;
    case Level::product:
      return grain::kProduct;
    case Level::line:
      break;
  }
  return grain::kLine;
}

std::size_t RowView::find(std::string_view name) const {
  for (std::size_t i = 0; i < columns.size(); ++i) {
    if (columns[i].name == name) return i;
  }
  return columns.size();
}

}  // namespace pear
