#include "expression/rows/row_view.hpp"

namespace pear::expression {

Grain grain_of(daybook::Level level) {
  switch (level) {
    case daybook::Level::customer:
      return grain::kCustomer;
    case daybook::Level::order:
      return grain::kOrder;
    case daybook::Level::product:
      return grain::kProduct;
    case daybook::Level::line:
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

}  // namespace pear::expression
