#include "daybook/builder.hpp"

#include <limits>
#include <utility>

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include "base/text.hpp"
#include "daybook/columns/extra_columns.hpp"
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

void put_in_line_order(ColumnValues& values, const std::vector<std::uint32_t>& positions) {
  std::visit([&](auto& typed) { array_of(typed) = gathered(array_of(typed), positions); }, values);
}

void add_column(DaybookParts& parts, std::string_view name, Level level, ColumnValues values) {
  parts.columns.push_back({std::string(name), level, std::move(values)});
}

}  // namespace

OrError<BuiltDaybook> build_daybook(LineTable table) {
  constexpr std::size_t kMostLines = std::numeric_limits<std::uint32_t>::max() - 1;
  if (table.lines() > kMostLines)
    return data_error(fmt::format("the sales have {}; a daybook holds up to {}",
                                  counted(table.lines(), "line"),
                                  with_thousands(static_cast<std::int64_t>(kMostLines))));
  BuiltDaybook built;
  DaybookParts parts;
  const auto customer_positions = natural_positions(table.customer_ids);
  const auto product_positions = natural_positions(table.product_ids);
  const auto product_ranks = inverse(product_positions);
  OrderIndex index = index_orders(table, inverse(customer_positions), product_ranks);
  built.orders_with_two_dates = index.orders_with_two_dates;
  built.shared_order_ids = index.shared_order_ids;

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
  table.is_return = {};
  for (CandidateColumn& candidate : table.columns) {
    ColumnValues& values = candidate.column.values;
    put_in_line_order(values, index.line_positions);
    if (auto* text = std::get_if<TextValues>(&values)) values = with_inferred_type(std::move(*text));
    parts.columns.push_back(at_its_level(std::move(candidate), parts, built));
  }
  built.daybook = Daybook(std::move(parts));
  return built;
}

}  // namespace pear::daybook
