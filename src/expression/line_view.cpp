#include "expression/line_view.hpp"

#include <numeric>

#include "daybook/derived_columns.hpp"

namespace pear {
namespace {

/// Every member has its own text: its position is its code.
ColumnValues as_column(const TextArray& texts) {
  TextValues values;
  values.codes.resize(texts.size());
  std::iota(values.codes.begin(), values.codes.end(), 0U);
  values.dictionary = texts;
  return values;
}

}  // namespace

LineView::LineView(const Daybook& daybook) : derived_(derived_columns(daybook)) {
  view_.rows = daybook.lines();
  orders_.reserve(view_.rows);
  customers_.reserve(view_.rows);
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    const Run orders = daybook.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      orders_.insert(orders_.end(), daybook.lines_of(order).size(), order);
      customers_.insert(customers_.end(), daybook.lines_of(order).size(), customer);
    }
  }
  products_.assign(daybook.line_products().begin(), daybook.line_products().end());

  add(std::string(role::kOrderId), Level::order, ids_.emplace_back(as_column(daybook.order_ids())));
  const Column* date = daybook.find(role::kOrderDate);
  add(date->name, date->level, date->values);
  add(std::string(role::kCustomerId), Level::customer, ids_.emplace_back(as_column(daybook.customer_ids())));
  add(std::string(role::kProductId), Level::product, ids_.emplace_back(as_column(daybook.product_ids())));
  for (const Column& column : daybook.parts().columns) {
    if (&column != date) add(column.name, column.level, column.values);
  }
  for (const Column& column : derived_) add(column.name, column.level, column.values);
}

void LineView::add(const std::string& name, Level level, const ColumnValues& values) {
  view_.columns.push_back({name, &values, members(level)});
}

const std::vector<std::uint32_t>* LineView::members(Level level) const {
  switch (level) {
    case Level::order:
      return &orders_;
    case Level::customer:
      return &customers_;
    case Level::product:
      return &products_;
    case Level::line:
      break;
  }
  return nullptr;
}

}  // namespace pear
