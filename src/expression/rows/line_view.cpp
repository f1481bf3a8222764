#include "expression/rows/line_view.hpp"

#include <algorithm>
#include <numeric>

namespace pear::expression {
namespace {

/// Every member has its own text: its position is its code.
daybook::ColumnValues as_column(const TextArray& texts) {
  daybook::TextValues values;
  values.codes.resize(texts.size());
  std::iota(values.codes.begin(), values.codes.end(), 0U);
  values.dictionary = texts;
  return values;
}

}  // namespace

LineView::LineView(const daybook::Daybook& daybook, const std::map<std::string, Grain>& grains)
    : daybook_(daybook) {
  for (const daybook::Level level :
       {daybook::Level::line, daybook::Level::order, daybook::Level::customer, daybook::Level::product})
    views_.at(static_cast<std::size_t>(level)).rows = daybook.members(level);
  for (RowView& view : views_) view.data_end = daybook.parts().data_end;
  const auto add_ids = [&](std::string_view name, daybook::Level level, const TextArray& ids) {
    if (!ids.empty()) add(std::string(name), level, ids_.emplace_back(as_column(ids)), grain_of(level));
  };
  const daybook::DaybookParts& parts = daybook.parts();
  add_ids(daybook::role::kOrderId, daybook::Level::order, parts.order_ids);
  const daybook::Column* date = daybook.find(daybook::role::kOrderDate);
  if (date != nullptr) add(date->name, date->level, date->values, grain_of(date->level));
  add_ids(daybook::role::kCustomerId, daybook::Level::customer, parts.customer_ids);
  if (!parts.line_products.empty())
    add_ids(daybook::role::kProductId, daybook::Level::product, parts.product_ids);
  for (const daybook::Column& column : parts.columns) {
    const auto known = grains.find(column.name);
    if (&column != date)
      add(column.name, column.level, column.values,
          known == grains.end() ? grain_of(column.level) : known->second);
  }
}

void LineView::add(const std::string& name, daybook::Level level, const daybook::ColumnValues& values,
                   Grain grain) {
  const auto show = [&](daybook::Level row, const std::vector<std::uint32_t>* members, bool settled) {
    views_.at(static_cast<std::size_t>(row))
        .columns.push_back({name, settled ? &values : nullptr, members, grain});
  };
  const std::vector<std::uint32_t>* by_line[] = {nullptr, &line_orders_, &line_customers_,
                                                 &daybook_.parts().line_products};
  show(daybook::Level::line, by_line[static_cast<std::size_t>(level)], true);
  show(daybook::Level::order, level == daybook::Level::customer ? &order_customers_ : nullptr,
       level == daybook::Level::order || level == daybook::Level::customer);
  show(daybook::Level::customer, nullptr, level == daybook::Level::customer);
  show(daybook::Level::product, nullptr, level == daybook::Level::product);
}

const RowView& LineView::rows_of(daybook::Level level) const {
  prepare(level);
  return views_.at(static_cast<std::size_t>(level));
}

/// The customer and order of each row, if the level's rows need them.
void LineView::prepare(daybook::Level level) const {
  if (level == daybook::Level::order) {
    std::call_once(orders_prepared_, [&] {
      order_customers_.resize(daybook_.orders());
      for (std::uint32_t customer = 0; customer < daybook_.customers(); ++customer) {
        const daybook::Run orders = daybook_.orders_of(customer);
        std::fill(order_customers_.begin() + orders.begin, order_customers_.begin() + orders.end, customer);
      }
    });
  }
  if (level == daybook::Level::line) {
    std::call_once(lines_prepared_, [&] {
      line_orders_.resize(daybook_.lines());
      line_customers_.resize(daybook_.lines());
      for (std::uint32_t customer = 0; customer < daybook_.customers(); ++customer) {
        const daybook::Run orders = daybook_.orders_of(customer);
        for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
          const daybook::Run lines = daybook_.lines_of(order);
          std::fill(line_orders_.begin() + lines.begin, line_orders_.begin() + lines.end, order);
          std::fill(line_customers_.begin() + lines.begin, line_customers_.begin() + lines.end, customer);
        }
      }
    });
  }
}

daybook::Level LineView::level_for(Grain grain) {
  if (within(grain, grain::kCustomer)) return daybook::Level::customer;
  if (within(grain, grain::kOrder)) return daybook::Level::order;
  if (within(grain, grain::kProduct)) return daybook::Level::product;
  return daybook::Level::line;
}

}  // namespace pear::expression
