#include "expression/aggregate/windows.hpp"

#include <optional>
#include <utility>

#include "daybook/walk_lines.hpp"
#include "expression/aggregate/aggregate.hpp"
#include "expression/aggregate/grouping.hpp"
#include "expression/aggregate/places.hpp"

namespace pear::expression {
namespace {

/// The value of each member's group; empty for a product without lines.
daybook::ColumnValues spread(const daybook::ColumnValues& by_group, const Grouping& grouping,
                             daybook::Level level, const daybook::Daybook& daybook) {
  std::vector<std::uint32_t> groups(daybook.members(level), daybook::kNoMember);
  daybook::walk_lines(daybook, {0, daybook.customers()}, [&](const daybook::LinePlace& place) {
    groups[place.member(level)] = grouping.cell_of_line[place.line];
  });
  daybook::ColumnValues values = by_group;
  const auto pick = [&](auto& array, auto empty) {
    std::remove_reference_t<decltype(array)> picked;
    picked.reserve(groups.size());
    for (const std::uint32_t group : groups)
      picked.push_back(group == daybook::kNoMember ? empty : array[group]);
    array = std::move(picked);
  };
  if (auto* text = std::get_if<daybook::TextValues>(&values)) pick(text->codes, daybook::kEmptyCode);
  if (auto* decimal = std::get_if<daybook::DecimalValues>(&values))
    pick(decimal->units, daybook::kEmptyUnits);
  if (auto* date = std::get_if<daybook::DateValues>(&values)) pick(date->days, daybook::kEmptyDays);
  if (auto* time = std::get_if<daybook::TimeValues>(&values))
    pick(time->seconds, std::int32_t{Moment::kNoTime});
  return values;
}

OrError<WindowColumn> window_column(const daybook::Daybook& daybook,
                                    const std::map<std::string, Grain>& grains, const Window& window) {
  const LineView lines(daybook, grains);
  WindowColumn result;
  std::vector<GroupKey> keys;
  for (const Node& part : window.aggregate.partition) {
    PEAR_ASSIGN(const Expression expression, Expression::compile(part, window.name, lines.schema()));
    PEAR_ASSIGN(GroupKey key, group_key(expression, lines));
    result.grain |= key.grain;
    keys.push_back(std::move(key));
  }
  const Grouping grouping = group_lines(daybook, keys);
  PEAR_ASSIGN(const Aggregate aggregate, Aggregate::compile(window.aggregate, lines));
  std::vector<std::uint32_t> groups(grouping.cells);
  for (std::uint32_t cell = 0; cell < grouping.cells; ++cell) groups[cell] = cell;
  PEAR_ASSIGN(const daybook::ColumnValues by_group,
              aggregate.by_group({grouping.cell_of_line, groups, grouping.cells}));
  const daybook::Level level = LineView::level_for(result.grain);
  result.column = {window.name, level, spread(by_group, grouping, level, daybook)};
  return result;
}

}  // namespace

OrError<WithWindows> add_windows(daybook::Daybook daybook, const std::vector<Window>& windows) {
  WithWindows result{std::move(daybook), {}};
  for (const Window& window : windows) {
    if (result.grains.contains(window.name)) continue;
    PEAR_ASSIGN(WindowColumn made, is_place(window.aggregate.op)
                                       ? place_column(result.daybook, result.grains, window)
                                       : window_column(result.daybook, result.grains, window));
    result.grains.emplace(window.name, made.grain);
    daybook::DaybookParts parts = std::move(result.daybook).take_parts();
    parts.columns.push_back(std::move(made.column));
    result.daybook = daybook::Daybook(std::move(parts));
  }
  return result;
}

}  // namespace pear::expression
