#include "analysis/time_keys.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <string>
#include <utility>

#include <fmt/format.h>

#include "base/decimal.hpp"

namespace pear::analysis {
namespace {

std::int64_t number_in(std::string_view text) {
  std::int64_t number = 0;
  std::from_chars(text.data(), text.data() + text.size(), number);
  return number;
}

/// "2024-09" and "2024-Q3" as running numbers, and back.
struct TextTime {
  std::int64_t per_year = 12;
  [[nodiscard]] std::int64_t number(std::string_view text) const {
    const std::string_view part = text.substr(per_year == 4 ? 6 : 5);
    return number_in(text.substr(0, 4)) * per_year + number_in(part) - 1;
  }
  [[nodiscard]] std::string text(std::int64_t number) const {
    const std::int64_t part = number % per_year + 1;
    return per_year == 4 ? fmt::format("{:04}-Q{}", number / 4, part)
                         : fmt::format("{:04}-{:02}", number / 12, part);
  }
};

/// The numbers of the labels; all between the first and the last become labels.
template <class Make>
void fill(const std::vector<std::int64_t>& numbers, std::int64_t step, expression::GroupKey& key,
          const Make& make) {
  const std::int64_t first = numbers.front();
  const auto all = static_cast<std::uint32_t>((numbers.back() - first) / step + 1);
  for (std::uint32_t& code : key.codes)
    code = code == key.distinct ? all : static_cast<std::uint32_t>((numbers[code] - first) / step);
  for (std::uint32_t i = 0; i < all; ++i) make(first + step * i);
  key.distinct = all;
  key.has_gaps_filled = true;
}

}  // namespace

bool is_time(const expression::GroupKey& key) {
  constexpr std::array<std::string_view, 6> kTimes = {"year", "quarter",    "month",
                                                      "week", "first_year", "first_month"};
  return key.type == expression::ValueType::date ||
         std::find(kTimes.begin(), kTimes.end(), key.source) != kTimes.end();
}

void fill_times(expression::GroupKey& key) {
  const std::string& name = key.source;
  if (key.distinct < 2) return;
  std::vector<std::int64_t> numbers;
  if ((name == "year" || name == "first_year") &&
      std::holds_alternative<daybook::DecimalValues>(key.labels)) {
    numbers = std::get<daybook::DecimalValues>(key.labels).units;
    daybook::DecimalValues labels;
    fill(numbers, Decimal::kScale, key, [&](std::int64_t units) { labels.units.push_back(units); });
    key.labels = std::move(labels);
  } else if ((name == "month" || name == "first_month" || name == "quarter") &&
             std::holds_alternative<daybook::TextValues>(key.labels)) {
    const TextTime time{name == "quarter" ? 4 : 12};
    const TextArray& texts = std::get<daybook::TextValues>(key.labels).dictionary;
    for (std::size_t i = 0; i < texts.size(); ++i) numbers.push_back(time.number(texts[i]));
    daybook::TextValues labels;
    fill(numbers, 1, key, [&](std::int64_t number) { labels.dictionary.push_back(time.text(number)); });
    key.labels = std::move(labels);
  }
}

}  // namespace pear::analysis
