#include "daybook/nesting.hpp"

#include <limits>
#include <string>
#include <utility>

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include "base/text.hpp"
#include "daybook/natural_ranks.hpp"
#include "daybook/order_index.hpp"

namespace pear::daybook {
namespace {

template <class T>
std::vector<T> gathered(const std::vector<T>& values, const std::vector<std::uint32_t>& positions) {
  std::vector<T> result(positions.size());
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, positions.size(), 1U << 16U), [&](const auto& range) {
    for (std::size_t i = range.begin(); i != range.end(); ++i) result[i] = values[positions[i]];
  });
  return result;
}

void add_column(DaybookParts& parts, std::string_view name, Level level, ColumnValues values) {
  parts.columns.push_back({std::string(name), level, std::move(values)});
}

}  // namespace

OrError<NestedLines> nest_lines(LineTable table) {
  constexpr std::size_t kMostLines = std::numeric_limits<std::uint32_t>::max() - 1;
  if (table.lines() > kMostLines)
    return data_error(fmt::format("the sales have {}; a daybook holds up to {}",
                                  counted(table.lines(), "line"),
                                  with_thousands(static_cast<std::int64_t>(kMostLines))));
  NestedLines nested;
  DaybookParts& parts = nested.parts;
  const auto customer_positions = natural_positions(table.customer_ids);
  const auto product_positions = natural_positions(table.product_ids);
  const auto product_ranks = inverse(product_positions);
  OrderIndex index = index_orders(table, inverse(customer_positions), product_ranks);
  nested.orders_with_two_dates = index.orders_with_two_dates;
  nested.shared_order_ids = index.shared_order_ids;

  parts.products = static_cast<std::uint32_t>(table.product_ids.size());
  tbb::parallel_invoke([&] { parts.order_ids = table.order_ids.picked(index.order_codes); },
                       [&] {
                         parts.customer_ids = table.customer_ids.picked(customer_positions);
                         parts.product_ids = table.product_ids.picked(product_positions);
                       });
  parts.order_offsets = std::move(index.order_offsets);
  parts.line_offsets = std::move(index.line_offsets);
  table.customer_ids = table.order_ids = table.product_ids = {};
  for (std::uint32_t& product : table.product) product = product_ranks[product];
  parts.line_products = gathered(table.product, index.line_positions);
  table.product = {};

  add_column(parts, role::kOrderDate, Level::order, DateValues{std::move(index.order_days)});
  if (!index.order_seconds.empty())
    add_column(parts, role::kOrderTime, Level::order, TimeValues{std::move(index.order_seconds)});
  add_column(parts, role::kIsReturn, Level::line,
             FlagValues{gathered(table.is_return, index.line_positions)});
  nested.columns = std::move(table.columns);
  nested.line_positions = std::move(index.line_positions);
  return nested;
}

void put_in_line_order(ColumnValues& values, const std::vector<std::uint32_t>& line_positions) {
  std::visit([&](auto& typed) { array_of(typed) = gathered(array_of(typed), line_positions); }, values);
}

}  // namespace pear::daybook
