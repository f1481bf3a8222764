#include "daybook/daybook.hpp"

#include <array>
#include <stdexcept>
#include <utility>

#include <fmt/format.h>

namespace pear::daybook {
namespace {

template <class T>
const T& loaded(const T& array, std::size_t members, std::string_view name) {
  if (array.size() != members) throw std::logic_error(fmt::format("the column {} was not loaded", name));
  return array;
}

template <class Values>
const Values& values_of(const Column* column, std::string_view name) {
  if (column == nullptr) throw std::logic_error(fmt::format("the column {} was not loaded", name));
  return std::get<Values>(column->values);
}

}  // namespace

Daybook::Daybook(DaybookParts parts) : parts_(std::move(parts)) {
  for (const Column& column : parts_.columns) {
    if (column.size() != members(column.level))
      throw std::logic_error(fmt::format("the column {} has {} values for {} members of its level",
                                         column.name, column.size(), members(column.level)));
  }
  order_date_ = find(role::kOrderDate);
  amount_ = find(role::kAmount);
  is_return_ = find(role::kIsReturn);
}

std::uint32_t Daybook::members(Level level) const {
  switch (level) {
    case Level::line:
      return lines();
    case Level::order:
      return orders();
    case Level::customer:
      return customers();
    case Level::product:
      return products();
  }
  return 0;
}

const TextArray& Daybook::customer_ids() const {
  return loaded(parts_.customer_ids, customers(), role::kCustomerId);
}
const TextArray& Daybook::product_ids() const {
  return loaded(parts_.product_ids, products(), role::kProductId);
}
const TextArray& Daybook::order_ids() const { return loaded(parts_.order_ids, orders(), role::kOrderId); }

std::span<const std::uint32_t> Daybook::line_products() const {
  return loaded(parts_.line_products, lines(), role::kProductId);
}

std::span<const std::int32_t> Daybook::order_days() const {
  return values_of<DateValues>(order_date_, role::kOrderDate).days;
}
std::span<const std::int64_t> Daybook::amounts() const {
  return values_of<DecimalValues>(amount_, role::kAmount).units;
}
std::span<const std::uint8_t> Daybook::return_flags() const {
  return values_of<FlagValues>(is_return_, role::kIsReturn).flags;
}

const Column* Daybook::find(std::string_view name) const {
  for (const Column& column : parts_.columns) {
    if (column.name == name) return &column;
  }
  return nullptr;
}

Daybook without_lines(Daybook daybook) {
  DaybookParts parts = std::move(daybook).take_parts();
  parts.line_products = {};
  std::erase_if(parts.columns, [](const Column& column) { return column.level == Level::line; });
  return Daybook(std::move(parts));
}

}  // namespace pear::daybook
