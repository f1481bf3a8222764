#include "daybook/column.hpp"

#include <array>

#include "base/date.hpp"
#include "base/decimal.hpp"
namespace pear::daybook {

std::string_view to_text(Level level) {
  constexpr std::array<std::string_view, 4> kNames = {"line", "order", "customer", "product"};
  return kNames.at(static_cast<std::size_t>(level));
}

std::string_view to_text(ColumnType type) {
  constexpr std::array<std::string_view, 5> kNames = {"text", "decimal", "date", "time", "flag"};
  return kNames.at(static_cast<std::size_t>(type));
}

std::size_t Column::size() const {
  return std::visit([](const auto& column_values) { return array_of(column_values).size(); }, values);
}

std::string value_text(const ColumnValues& values, std::size_t member) {
  if (const auto* text = std::get_if<TextValues>(&values)) {
    const std::uint32_t code = text->codes[member];
    return code == kEmptyCode ? "" : std::string(text->dictionary[code]);
  }
  if (const auto* decimal = std::get_if<DecimalValues>(&values)) {
    const std::int64_t units = decimal->units[member];
    return units == kEmptyUnits ? "" : Decimal::from_units(units).to_text();
  }
  if (const auto* date = std::get_if<DateValues>(&values))
    return date->days[member] == kEmptyDays ? "" : to_text(Date{date->days[member]});
  if (const auto* time = std::get_if<TimeValues>(&values))
    return time->seconds[member] == Moment::kNoTime ? "" : time_of_day_text(time->seconds[member]);
  return std::get<FlagValues>(values).flags[member] != 0 ? "true" : "false";
}

}  // namespace pear::daybook
