// Columns: flat arrays of one type, each belonging to a level of the daybook.
#pragma once

#include <cstdint>
#include <limits>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "base/text_array.hpp"

namespace pear::daybook {

/// What a value of a column describes. `status` and the daybook file use the same names.
enum class Level : std::uint8_t { line, order, customer, product };

/// In the order of the alternatives of ColumnValues.
enum class ColumnType : std::uint8_t { text, decimal, date, time, flag };

[[nodiscard]] std::string_view to_text(Level level);
[[nodiscard]] std::string_view to_text(ColumnType type);

// A value that the data does not hold.
constexpr std::uint32_t kEmptyCode = std::numeric_limits<std::uint32_t>::max();
constexpr std::int64_t kEmptyUnits = std::numeric_limits<std::int64_t>::min();
constexpr std::int32_t kEmptyDays = std::numeric_limits<std::int32_t>::min();

/// Text by dictionary: codes are positions in `dictionary`, whose texts are distinct and in natural order.
struct TextValues {
  std::vector<std::uint32_t> codes;
  TextArray dictionary;
  bool operator==(const TextValues&) const = default;
};
/// Money or quantity, in units of Decimal (1/10,000).
struct DecimalValues {
  std::vector<std::int64_t> units;
  bool operator==(const DecimalValues&) const = default;
};
/// Days since 1970-01-01.
struct DateValues {
  std::vector<std::int32_t> days;
  bool operator==(const DateValues&) const = default;
};
/// Second of the day, 0 to 86,399; Moment::kNoTime where no time is known.
struct TimeValues {
  std::vector<std::int32_t> seconds;
  bool operator==(const TimeValues&) const = default;
};
/// 0 or 1.
struct FlagValues {
  std::vector<std::uint8_t> flags;
  bool operator==(const FlagValues&) const = default;
};

using ColumnValues = std::variant<TextValues, DecimalValues, DateValues, TimeValues, FlagValues>;

/// The bare array of a column of any type: codes, units, days, seconds or flags.
inline auto& array_of(TextValues& values) { return values.codes; }
inline auto& array_of(DecimalValues& values) { return values.units; }
inline auto& array_of(DateValues& values) { return values.days; }
inline auto& array_of(TimeValues& values) { return values.seconds; }
inline auto& array_of(FlagValues& values) { return values.flags; }
template <class Values>
const auto& array_of(const Values& values) {
  return array_of(const_cast<Values&>(values));
}

struct Column {
  std::string name;  ///< snake_case, unique in its daybook
  Level level = Level::line;
  ColumnValues values;

  [[nodiscard]] ColumnType type() const { return static_cast<ColumnType>(values.index()); }
  [[nodiscard]] std::size_t size() const;
  bool operator==(const Column&) const = default;
};

/// The text of a value as a file would contain it; empty if there is no value.
[[nodiscard]] std::string value_text(const ColumnValues& values, std::size_t member);

}  // namespace pear::daybook
