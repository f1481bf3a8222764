#include "expression/rows/line_view.hpp"

#include <algorithm>
#include <numeric>

#include "daybook/walk_lines.hpp"

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
  if (!parts.line_products.empty() || daybook.lines() == 0)
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

const RowView& LineView::rows_of(daybook::Level level, const std::set<std::size_t>& columns) const {
  const RowView& view = schema(level);
  for (const std::size_t column : columns) prepare(view.columns[column].members);
  return view;
}

const RowView& LineView::rows() const {
  for (const ViewColumn& column : schema().columns) prepare(column.members);
  return schema();
}

/// Fills in the order or customer of each row, if it is these that a column reads.
void LineView::prepare(const std::vector<std::uint32_t>* members) const {
  const auto once = [&](std::once_flag& prepared, std::vector<std::uint32_t>& of, std::uint32_t rows,
                        const auto& fill) {
    if (members != &of) return;
    std::call_once(prepared, [&] {
      of.resize(rows);
      daybook::for_each_customer_run(daybook_, [&](daybook::CustomerRun run) {
        for (std::uint32_t customer = run.begin; customer < run.end; ++customer) fill(customer);
      });
    });
  };
  const auto set = [](std::vector<std::uint32_t>& of, daybook::Run run, std::uint32_t member) {
    std::fill(of.begin() + run.begin, of.begin() + run.end, member);
  };
  const auto for_orders = [&](std::uint32_t customer, const auto& visit) {
    const daybook::Run orders = daybook_.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) visit(order);
  };
  once(order_customers_prepared_, order_customers_, daybook_.orders(),
       [&](std::uint32_t customer) { set(order_customers_, daybook_.orders_of(customer), customer); });
  once(line_customers_prepared_, line_customers_, daybook_.lines(), [&](std::uint32_t customer) {
    for_orders(customer,
               [&](std::uint32_t order) { set(line_customers_, daybook_.lines_of(order), customer); });
  });
  once(line_orders_prepared_, line_orders_, daybook_.lines(), [&](std::uint32_t customer) {
    for_orders(customer, [&](std::uint32_t order) { set(line_orders_, daybook_.lines_of(order), order); });
  });
}

daybook::Level LineView::level_for(Grain grain) {
  if (within(grain, grain::kCustomer)) return daybook::Level::customer;
  if (within(grain, grain::kOrder)) return daybook::Level::order;
  if (within(grain, grain::kProduct)) return daybook::Level::product;
  return daybook::Level::line;
}

}  // namespace pear::expression
