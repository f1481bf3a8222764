#include "expression/line_view.hpp"

#include <algorithm>
#include <numeric>

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

LineView::LineView(const Daybook& daybook, const std::map<std::string, Grain>& grains) : daybook_(daybook) {
  for (const Level level : {Level::line, Level::order, Level::customer, Level::product})
    views_.at(static_cast<std::size_t>(level)).rows = daybook.members(level);
  const auto add_ids = [&](std::string_view name, Level level, const TextArray& ids) {
    if (!ids.empty()) add(std::string(name), level, ids_.emplace_back(as_column(ids)), grain_of(level));
  };
  const DaybookParts& parts = daybook.parts();
  add_ids(role::kOrderId, Level::order, parts.order_ids);
  const Column* date = daybook.find(role::kOrderDate);
  if (date != nullptr) add(date->name, date->level, date->values, grain_of(date->level));
  add_ids(role::kCustomerId, Level::customer, parts.customer_ids);
  if (!parts.line_products.empty()) add_ids(role::kProductId, Level::product, parts.product_ids);
  for (const Column& column : parts.columns) {
    const auto known = grains.find(column.name);
    if (&column != date)
      add(column.name, column.level, column.values,
          known == grains.end() ? grain_of(column.level) : known->second);
  }
}

void LineView::add(const std::string& name, Level level, const ColumnValues& values, Grain grain) {
  const auto show = [&](Level row, const std::vector<std::uint32_t>* members, bool settled) {
    views_.at(static_cast<std::size_t>(row))
        .columns.push_back({name, settled ? &values : nullptr, members, grain});
  };
  const std::vector<std::uint32_t>* by_line[] = {nullptr, &line_orders_, &line_customers_,
                                                 &daybook_.parts().line_products};
  show(Level::line, by_line[static_cast<std::size_t>(level)], true);
  show(Level::order, level == Level::customer ? &order_customers_ : nullptr,
       level == Level::order || level == Level::customer);
  show(Level::customer, nullptr, level == Level::customer);
  show(Level::product, nullptr, level == Level::product);
}

const RowView& LineView::rows_of(Level level) const {
  prepare(level);
  return views_.at(static_cast<std::size_t>(level));
}

/// Which customer and order each row is of, where the level's rows need it.
void LineView::prepare(Level level) const {
  if (level == Level::order) {
    std::call_once(orders_prepared_, [&] {
      order_customers_.resize(daybook_.orders());
      for (std::uint32_t customer = 0; customer < daybook_.customers(); ++customer) {
        const Run orders = daybook_.orders_of(customer);
        std::fill(order_customers_.begin() + orders.begin, order_customers_.begin() + orders.end, customer);
      }
    });
  }
  if (level == Level::line) {
    std::call_once(lines_prepared_, [&] {
      line_orders_.resize(daybook_.lines());
      line_customers_.resize(daybook_.lines());
      for (std::uint32_t customer = 0; customer < daybook_.customers(); ++customer) {
        const Run orders = daybook_.orders_of(customer);
        for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
          const Run lines = daybook_.lines_of(order);
          std::fill(line_orders_.begin() + lines.begin, line_orders_.begin() + lines.end, order);
          std::fill(line_customers_.begin() + lines.begin, line_customers_.begin() + lines.end, customer);
        }
      }
    });
  }
}

Level LineView::level_for(Grain grain) {
  if (within(grain, grain::kCustomer)) return Level::customer;
  if (within(grain, grain::kOrder)) return Level::order;
  if (within(grain, grain::kProduct)) return Level::product;
  return Level::line;
}

}  // namespace pear
