#include "expression/aggregate/places.hpp"

#include <algorithm>
#include <deque>
#include <numeric>
#include <span>
#include <utility>
#include <vector>

#include <tbb/parallel_sort.h>

#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "expression/expression.hpp"
#include "expression/rows/column_of.hpp"

namespace pear::expression {
namespace {

/// Members of the level with a purchase.
std::vector<std::uint32_t> placed_members(const daybook::Daybook& daybook, daybook::Level level) {
  const daybook::Purchases purchases(daybook);
  std::vector<std::uint8_t> has_purchase(daybook.members(level));
  daybook::walk_lines(daybook, {0, daybook.customers()}, [&](const daybook::LinePlace& place) {
    if (!purchases.is_return(place.line)) has_purchase[place.member(level)] = 1;
  });
  std::vector<std::uint32_t> members;
  for (std::uint32_t member = 0; member < has_purchase.size(); ++member)
    if (has_purchase[member] != 0) members.push_back(member);
  return members;
}

/// The values that members are sorted by: those of the partition first.
class SortValues {
 public:
  OrError<void> add(const Expression& expression, const RowView& rows, bool descends) {
    PEAR_ASSIGN(daybook::ColumnValues values, column_of(expression, rows));
    columns_.push_back(std::move(values));
    keys_.push_back({as_integers(columns_.back(), made_.emplace_back()), descends});
    return {};
  }

  /// Below 0 if member a comes before member b by the keys [begin, end), 0 if they are equal.
  [[nodiscard]] int compare(std::uint32_t a, std::uint32_t b, std::size_t begin, std::size_t end) const {
    for (std::size_t i = begin; i < end; ++i) {
      const Key& key = keys_[i];
      const std::int64_t left = key.values[a], right = key.values[b];
      if (left == right) continue;
      if (left == daybook::kEmptyUnits || right == daybook::kEmptyUnits)
        return left == daybook::kEmptyUnits ? 1 : -1;
      return (left < right) != key.descends ? -1 : 1;
    }
    return 0;
  }
  [[nodiscard]] std::size_t size() const { return keys_.size(); }

 private:
  struct Key {
    std::span<const std::int64_t> values;
    bool descends = false;
  };
  std::deque<daybook::ColumnValues> columns_;
  std::deque<std::vector<std::int64_t>> made_;
  std::vector<Key> keys_;
};

/// The part, from 1, of a place from 0 among `count`: the first parts have one member more where they cannot
/// be equal.
std::int64_t part_of(std::size_t place, std::size_t count, std::int64_t parts) {
  const auto all = static_cast<std::size_t>(parts);
  const std::size_t small = count / all, large_parts = count % all;
  if (place < large_parts * (small + 1)) return static_cast<std::int64_t>(place / (small + 1)) + 1;
  return static_cast<std::int64_t>(large_parts + (place - large_parts * (small + 1)) / small) + 1;
}

}  // namespace

OrError<WindowColumn> place_column(const daybook::Daybook& daybook,
                                   const std::map<std::string, Grain>& grains, const Window& window) {
  const LineView lines(daybook, grains);
  const Node& node = window.aggregate;
  WindowColumn result;
  std::vector<std::pair<Expression, bool>> expressions;
  for (const auto* parts : {&node.partition, &node.order})
    for (const Node& part : *parts) {
      PEAR_ASSIGN(Expression expression, Expression::compile(part, window.name, lines.schema()));
      result.grain |= expression.grain();
      expressions.emplace_back(std::move(expression), part.is_descending);
    }
  const daybook::Level level = LineView::level_for(result.grain);
  SortValues values;
  for (const auto& [expression, descends] : expressions)
    PEAR_TRY(values.add(expression, lines.rows_of(level, expression.columns()), descends));
  std::vector<std::uint32_t> members = placed_members(daybook, level);
  tbb::parallel_sort(members.begin(), members.end(), [&](std::uint32_t a, std::uint32_t b) {
    const int order = values.compare(a, b, 0, values.size());
    return order != 0 ? order < 0 : a < b;
  });
  std::vector<std::int64_t> places(daybook.members(level), daybook::kEmptyUnits);
  for (std::size_t begin = 0; begin < members.size();) {
    std::size_t end = begin + 1;
    while (end < members.size() &&
           values.compare(members[begin], members[end], 0, node.partition.size()) == 0)
      ++end;
    std::size_t equal = begin;  // the first of those that are equal
    for (std::size_t i = begin; i < end; ++i) {
      if (values.compare(members[equal], members[i], node.partition.size(), values.size()) != 0) equal = i;
      const std::size_t place = (node.op == Op::rank ? equal : i) - begin;
      places[members[i]] = (node.op == Op::ntile ? part_of(place, end - begin, node.number)
                                                 : static_cast<std::int64_t>(place) + 1) *
                           Decimal::kScale;
    }
    begin = end;
  }
  result.column = {window.name, level, daybook::DecimalValues{std::move(places)}};
  return result;
}

}  // namespace pear::expression
