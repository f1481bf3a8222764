#include "daybook/columns/day_columns.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include <date/date.h>
#include <date/iso_week.h>
#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/decimal.hpp"

namespace pear::daybook {
namespace {

/// The days that occur, and an index for each day between the first and the last.
class DayTable {
 public:
  explicit DayTable(std::span<const std::int32_t> days) : days_(days) {
    for (const std::int32_t day : days) {
      first_ = std::min(first_, day == kEmptyDays ? INT32_MAX : day);
      last_ = std::max(last_, day);
    }
    if (first_ > last_) return;
    occurs_.resize(place(last_) + 1);
    for (const std::int32_t day : days) {
      if (day != kEmptyDays) occurs_[place(day)] = 1;
    }
  }

  /// value[i] = make(day i), called once for each day that occurs.
  template <class T, class Make>
  std::vector<T> values(T empty, Make make) const {
    std::vector<T> by_place(occurs_.size(), empty);
    for (std::size_t i = 0; i < occurs_.size(); ++i) {
      if (occurs_[i] != 0) by_place[i] = make(first_ + static_cast<std::int32_t>(i));
    }
    std::vector<T> values(days_.size());
    constexpr std::size_t kBlock = 65'536;
    tbb::parallel_for(std::size_t{0}, (days_.size() + kBlock - 1) / kBlock, [&](std::size_t block) {
      const std::size_t end = std::min(days_.size(), (block + 1) * kBlock);
      for (std::size_t i = block * kBlock; i < end; ++i)
        values[i] = days_[i] == kEmptyDays ? empty : by_place[place(days_[i])];
    });
    return values;
  }

  /// Texts that sort as bytes, so their dictionary is in natural order.
  template <class Make>
  TextValues texts(Make make) const {
    std::map<std::string, std::uint32_t> codes;
    for (std::size_t i = 0; i < occurs_.size(); ++i) {
      if (occurs_[i] != 0) codes.emplace(make(first_ + static_cast<std::int32_t>(i)), 0);
    }
    TextValues result;
    for (auto& [text, code] : codes) {
      code = static_cast<std::uint32_t>(result.dictionary.size());
      result.dictionary.push_back(text);
    }
    result.codes = values(kEmptyCode, [&](std::int32_t day) { return codes.at(make(day)); });
    return result;
  }

 private:
  [[nodiscard]] std::size_t place(std::int32_t day) const { return static_cast<std::size_t>(day - first_); }

  std::span<const std::int32_t> days_;
  std::int32_t first_ = INT32_MAX;
  std::int32_t last_ = INT32_MIN;
  std::vector<std::uint8_t> occurs_;
};

date::year_month_day calendar(std::int32_t day) {
  return date::year_month_day{date::sys_days{date::days{day}}};
}
int year_number(std::int32_t day) { return static_cast<int>(calendar(day).year()); }
unsigned month_number(std::int32_t day) { return static_cast<unsigned>(calendar(day).month()); }

std::string week(std::int32_t day) {
  const iso_week::year_weeknum_weekday week{date::sys_days{date::days{day}}};
  return fmt::format("{:04}-W{:02}", static_cast<int>(week.year()), static_cast<unsigned>(week.weeknum()));
}

std::string weekday(std::int32_t day) {
  constexpr std::array<const char*, 7> kNames = {"1 Mon", "2 Tue", "3 Wed", "4 Thu",
                                                 "5 Fri", "6 Sat", "7 Sun"};
  return kNames.at(date::weekday{date::sys_days{date::days{day}}}.iso_encoding() - 1);
}

}  // namespace

DecimalValues years_of(std::span<const std::int32_t> days) {
  return {DayTable(days).values(kEmptyUnits,
                                [](std::int32_t day) { return year_number(day) * Decimal::kScale; })};
}
DecimalValues months_of_year_of(std::span<const std::int32_t> days) {
  return {DayTable(days).values(kEmptyUnits, [](std::int32_t day) {
    return static_cast<std::int64_t>(month_number(day)) * Decimal::kScale;
  })};
}
TextValues quarters_of(std::span<const std::int32_t> days) {
  return DayTable(days).texts([](std::int32_t day) {
    return fmt::format("{:04}-Q{}", year_number(day), (month_number(day) + 2) / 3);
  });
}
TextValues months_of(std::span<const std::int32_t> days) {
  return DayTable(days).texts([](std::int32_t day) { return to_text(month_of(Date{day})); });
}
TextValues weeks_of(std::span<const std::int32_t> days) { return DayTable(days).texts(week); }
TextValues weekdays_of(std::span<const std::int32_t> days) { return DayTable(days).texts(weekday); }

}  // namespace pear::daybook
