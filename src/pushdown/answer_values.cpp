#include "pushdown/answer_values.hpp"

#include <algorithm>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "base/date.hpp"
#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "expression/rows/distinct_values.hpp"

namespace pear::pushdown {
namespace {

using expression::ValueType;

tl::unexpected<Error> unreadable(const std::string& text, std::string_view wanted) {
  return data_error(fmt::format("the database answered {} where {} was expected.", in_quotes(text), wanted));
}

daybook::TextValues texts_of(std::span<const SqlValue> values) {
  std::vector<std::string_view> distinct;
  for (const SqlValue& value : values)
    if (value) distinct.emplace_back(*value);
  std::sort(distinct.begin(), distinct.end(), NaturalLess{});
  distinct.erase(std::unique(distinct.begin(), distinct.end()), distinct.end());
  absl::flat_hash_map<std::string_view, std::uint32_t> codes;
  daybook::TextValues column;
  for (const std::string_view text : distinct) {
    codes.emplace(text, static_cast<std::uint32_t>(codes.size()));
    column.dictionary.push_back(text);
  }
  for (const SqlValue& value : values) column.codes.push_back(value ? codes.at(*value) : daybook::kEmptyCode);
  return column;
}

template <class Values, class T>
std::vector<std::uint32_t> code_numbers(const Values& values, T empty, expression::GroupKey& key) {
  expression::CodedValues<T> coded = *expression::code_values<T>(daybook::array_of(values), empty);
  key.distinct = static_cast<std::uint32_t>(coded.distinct.size());
  Values labels;
  daybook::array_of(labels) = std::move(coded.distinct);
  key.labels = std::move(labels);
  return std::move(coded.codes);
}

}  // namespace

OrError<Int128> whole(const SqlValue& value) {
  if (!value) return Int128{0};
  Int128 number = 0;
  const bool below = value->starts_with('-');
  for (std::size_t i = below ? 1 : 0; i < value->size(); ++i) {
    const char digit = (*value)[i];
    if (digit < '0' || digit > '9' || value->size() > 38) return unreadable(*value, "a whole number");
    number = number * 10 + (digit - '0');
  }
  return below ? -number : number;
}

OrError<std::int64_t> whole64(const SqlValue& value) {
  PEAR_ASSIGN(const Int128 number, whole(value));
  if (number > INT64_MAX || number <= INT64_MIN)
    return unreadable(*value, "a number in the range of amounts");
  return static_cast<std::int64_t>(number);
}

OrError<std::int32_t> day(const std::string& text) {
  const auto moment = parse_iso_moment(text);
  if (!moment) return unreadable(text, "a date");
  return moment->date.days;
}

OrError<daybook::ColumnValues> column_of(ValueType type, std::span<const SqlValue> values) {
  if (type == ValueType::text || type == ValueType::truth) return texts_of(values);
  if (type == ValueType::date) {
    daybook::DateValues column;
    for (const SqlValue& value : values) {
      PEAR_ASSIGN(const std::int32_t number, value ? day(*value) : daybook::kEmptyDays);
      column.days.push_back(number);
    }
    return column;
  }
  if (type == ValueType::time) {
    daybook::TimeValues column;
    for (const SqlValue& value : values) {
      PEAR_ASSIGN(const std::int64_t number, value ? whole64(value) : std::int64_t{Moment::kNoTime});
      column.seconds.push_back(static_cast<std::int32_t>(number));
    }
    return column;
  }
  daybook::DecimalValues column;
  for (const SqlValue& value : values) {
    PEAR_ASSIGN(const std::int64_t number, value ? whole64(value) : daybook::kEmptyUnits);
    column.units.push_back(number);
  }
  return column;
}

OrError<std::vector<std::uint32_t>> code_values(std::span<const SqlValue> values, expression::GroupKey& key) {
  PEAR_ASSIGN(daybook::ColumnValues column, column_of(key.type, values));
  if (auto* text = std::get_if<daybook::TextValues>(&column)) {
    key.distinct = static_cast<std::uint32_t>(text->dictionary.size());
    std::vector<std::uint32_t> codes = std::move(text->codes);
    for (std::uint32_t& code : codes) code = std::min(code, key.distinct);  // kEmptyCode is the largest
    key.labels = daybook::TextValues{{}, std::move(text->dictionary)};
    return codes;
  }
  if (const auto* decimal = std::get_if<daybook::DecimalValues>(&column))
    return code_numbers(*decimal, daybook::kEmptyUnits, key);
  if (const auto* date = std::get_if<daybook::DateValues>(&column))
    return code_numbers(*date, daybook::kEmptyDays, key);
  return code_numbers(std::get<daybook::TimeValues>(column), std::int32_t{Moment::kNoTime}, key);
}

}  // namespace pear::pushdown
