// Columns that are derived from others, and lists of members without lines, compared with slow twins.
#include <algorithm>
#include <cmath>
#include <ctime>
#include <map>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/decimal.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/columns/day_columns.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "daybook/columns/value_classes.hpp"
#include "daybook/member_list.hpp"
#include "daybook/select.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// A day as the C library writes it.
std::string formatted(std::int32_t day, const char* format) {
  const std::time_t seconds = std::time_t{day} * 86'400;
  std::tm calendar{};
  gmtime_r(&seconds, &calendar);
  std::string text(32, '\0');
  text.resize(std::strftime(text.data(), text.size(), format, &calendar));
  return text;
}

RC_GTEST_PROP(DayColumns, AreThoseOfTheCLibrary, ()) {
  constexpr int kYear = 365;
  std::vector<std::int32_t> days;
  for (int i = pick(0, 30); i > 0; --i) {
    const int around = pick(0, 90) * kYear + pick(-25, 25);  // the ends of years, in which weeks differ
    days.push_back(pick(0, 9) == 0 ? daybook::kEmptyDays : pick(0, 1) == 0 ? around : pick(-20'000, 60'000));
  }
  const auto years = daybook::years_of(days), months_of_year = daybook::months_of_year_of(days);
  const auto months = daybook::months_of(days), weeks = daybook::weeks_of(days);
  const auto weekdays = daybook::weekdays_of(days), quarters = daybook::quarters_of(days);
  const auto text = [](const daybook::TextValues& values, std::size_t row) {
    return std::string(values.dictionary[values.codes[row]]);
  };
  for (const auto* texts : {&months, &weeks, &weekdays, &quarters})
    for (std::size_t code = 1; code < texts->dictionary.size(); ++code)
      RC_ASSERT(texts->dictionary[code - 1] < texts->dictionary[code]);
  for (std::size_t row = 0; row < days.size(); ++row) {
    const bool is_empty = days[row] == daybook::kEmptyDays;
    RC_ASSERT((years.units[row] == daybook::kEmptyUnits) == is_empty);
    RC_ASSERT((months_of_year.units[row] == daybook::kEmptyUnits) == is_empty);
    for (const auto* texts : {&months, &weeks, &weekdays, &quarters})
      RC_ASSERT((texts->codes[row] == daybook::kEmptyCode) == is_empty);
    if (is_empty) continue;
    const int month = std::stoi(formatted(days[row], "%m"));
    RC_ASSERT(years.units[row] == std::stoi(formatted(days[row], "%Y")) * Decimal::kScale);
    RC_ASSERT(months_of_year.units[row] == month * Decimal::kScale);
    RC_ASSERT(text(months, row) == formatted(days[row], "%Y-%m"));
    RC_ASSERT(text(weeks, row) == formatted(days[row], "%G-W%V"));
    RC_ASSERT(text(weekdays, row) == formatted(days[row], "%u %a"));
    RC_ASSERT(text(quarters, row) == formatted(days[row], "%Y-Q") + std::to_string((month + 2) / 3));
  }
}

TEST(DerivedColumns, OfNothingAreEmpty) {
  daybook::DaybookParts parts = build({{"A1", "2024-01-01", "C1", "P1", 1, 100}}).daybook.parts();
  const daybook::Daybook nothing = daybook::select_lines(daybook::Daybook(std::move(parts)), {0});
  EXPECT_EQ(nothing.orders(), 0U);
  daybook::DaybookParts rest = nothing.parts();
  rest.data_end.reset();
  const daybook::Daybook completed =
      daybook::completed(daybook::Daybook(std::move(rest)), {"month", "customer_orders"});
  EXPECT_FALSE(completed.parts().data_end.has_value());
  EXPECT_EQ(completed.find("month")->size(), 0U);
}

/// Each name gives its own part of the date.
RC_GTEST_PROP(DerivedColumns, OfDatesHaveTheirNames, ()) {
  const daybook::Daybook daybook =
      daybook::completed(build(random_sales(true)).daybook,
                         {"year", "quarter", "month", "month_of_year", "week", "weekday", "hour"});
  for (std::uint32_t order = 0; order < daybook.orders(); ++order) {
    const auto text = [&](const char* name) {
      return daybook::value_text(daybook.find(name)->values, order);
    };
    const std::int32_t day = daybook.order_days()[order];
    const int month = std::stoi(formatted(day, "%m"));
    RC_ASSERT(text("year") == formatted(day, "%Y"));
    RC_ASSERT(text("quarter") == formatted(day, "%Y-Q") + std::to_string((month + 2) / 3));
    RC_ASSERT(text("month") == formatted(day, "%Y-%m"));
    RC_ASSERT(text("month_of_year") == std::to_string(month));
    RC_ASSERT(text("week") == formatted(day, "%G-W%V"));
    RC_ASSERT(text("weekday") == formatted(day, "%u %a"));
    if (daybook.find("hour") == nullptr) continue;
    const auto& seconds = std::get<daybook::TimeValues>(daybook.find("order_time")->values).seconds;
    RC_ASSERT(text("hour") == (seconds[order] < 0 ? "" : std::to_string(seconds[order] / 3600)));
  }
}

const std::vector<std::int64_t>& units_of(const daybook::Daybook& daybook, std::string_view name) {
  return std::get<daybook::DecimalValues>(daybook.find(name)->values).units;
}

RC_GTEST_PROP(DerivedColumns, CostIsThatOfAllPieces, ()) {
  const daybook::Daybook daybook = daybook::completed(random_daybook(), {"cost", "margin"});
  const auto& unit_costs = units_of(daybook, "unit_cost");
  const auto &costs = units_of(daybook, "cost"), &margins = units_of(daybook, "margin");
  bool any = false;
  for (std::uint32_t line = 0; line < daybook.lines(); ++line) {
    const std::int64_t unit = unit_costs[daybook.line_products()[line]];
    if (unit == daybook::kEmptyUnits) {
      RC_ASSERT(costs[line] == daybook::kEmptyUnits && margins[line] == daybook::kEmptyUnits);
      continue;
    }
    any = true;
    const std::int64_t pieces = units_of(daybook, "quantity")[line] / Decimal::kScale;  // whole ones
    RC_ASSERT(costs[line] == pieces * unit);
    RC_ASSERT(margins[line] == daybook.amounts()[line] - costs[line]);
  }
  RC_ASSERT(daybook::known_margins(daybook).empty() != any);
}

RC_GTEST_PROP(ValueClasses, AreTheFewestLargestMembers, ()) {
  std::vector<std::int64_t> amounts;
  std::int64_t total = 0;
  for (int i = pick(0, 15); i > 0; --i) {
    amounts.push_back(pick(0, 5) == 0 ? daybook::kEmptyUnits : pick(-20, 100));
    if (amounts.back() > 0) total += amounts.back();
  }
  const daybook::TextValues classes = daybook::value_classes(amounts);
  for (std::size_t member = 0; member < amounts.size(); ++member) {
    if (amounts[member] == daybook::kEmptyUnits || total == 0) {
      RC_ASSERT(classes.codes[member] == daybook::kEmptyCode);
      continue;
    }
    std::int64_t larger = 0;  // the amounts of all members before this one
    for (std::size_t other = 0; other < amounts.size(); ++other)
      if (amounts[other] > amounts[member] || (amounts[other] == amounts[member] && other < member))
        larger += std::max<std::int64_t>(0, amounts[other]);
    const double share = static_cast<double>(larger) / static_cast<double>(total);
    const char* wanted = share < 0.8 ? "A" : share < 0.95 ? "B" : "C";
    RC_ASSERT(classes.dictionary[classes.codes[member]] == wanted);
  }
}

RC_GTEST_PROP(Daybook, ValuesByCustomerAndProductAreThoseOfTheirLines, ()) {
  const daybook::Daybook daybook = build(random_sales()).daybook;
  std::map<std::uint32_t, std::int64_t> of_product, of_customer;
  std::uint32_t next = 0;
  daybook::walk_lines(daybook, {0, daybook.customers()}, [&](const daybook::LinePlace& place) {
    RC_ASSERT(place.line == next++);
    RC_ASSERT(place.member(daybook::Level::line) == place.line);
    RC_ASSERT(place.member(daybook::Level::order) == place.order);
    RC_ASSERT(place.member(daybook::Level::customer) == place.customer);
    RC_ASSERT(place.member(daybook::Level::product) == place.product);
    of_product[place.product] += daybook.amounts()[place.line];
    of_customer[place.customer] += daybook.amounts()[place.line];
  });
  RC_ASSERT(next == daybook.lines());
  const auto products = daybook::product_amounts(daybook);
  for (std::uint32_t product = 0; product < daybook.products(); ++product)
    RC_ASSERT(products[product] ==
              (of_product.contains(product) ? of_product[product] : daybook::kEmptyUnits));
  const auto sums = daybook::by_customer<std::int64_t>(daybook, [&](std::uint32_t customer) {
    std::int64_t sum = 0;
    const daybook::Run lines = daybook::lines_of_customer(daybook, customer);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) sum += daybook.amounts()[line];
    return sum;
  });
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer)
    RC_ASSERT(sums[customer] == of_customer[customer]);
}

/// Values of members by id and column; only those that are known.
using Known = std::map<std::string, std::map<std::string, std::string>>;

daybook::MemberList random_list(Known& known) {
  daybook::MemberList list;
  for (const char* column : {"name", "region", "town"})
    if (pick(0, 2) > 0) list.columns.emplace_back(column);
  list.values.resize(list.columns.size());
  std::set<std::string> ids;
  for (int i = pick(0, 5); i > 0; --i) ids.insert("C" + std::to_string(pick(1, 6)));
  for (const std::string& id : ids) {
    list.ids.push_back(id);
    known[id];
    for (std::size_t column = 0; column < list.columns.size(); ++column) {
      const std::string value = pick(0, 2) == 0 ? "" : "v" + std::to_string(pick(1, 9));
      list.values[column].push_back(value);
      if (!value.empty()) known[id][list.columns[column]] = value;
    }
  }
  return list;
}

Known known_of(const daybook::MemberList& list) {
  Known known;
  for (std::size_t member = 0; member < list.ids.size(); ++member) {
    auto& own = known[std::string(list.ids[member])];
    for (std::size_t column = 0; column < list.columns.size(); ++column)
      if (!list.values[column][member].empty())
        own[list.columns[column]] = std::string(list.values[column][member]);
  }
  return known;
}

RC_GTEST_PROP(MemberLists, KeepTheNewerValuesOfThoseWithoutALine, ()) {
  Known wanted;
  const daybook::MemberList older = random_list(wanted), newer = random_list(wanted);
  TextArray present;
  for (int i = pick(0, 2); i > 0; --i) {
    present.push_back("C" + std::to_string(pick(1, 6)));
    wanted.erase(std::string(present[present.size() - 1]));
  }
  const daybook::MemberList waiting = daybook::still_waiting(older, newer, present);
  RC_ASSERT(waiting.ids.size() == wanted.size());
  RC_ASSERT(known_of(waiting) == wanted);
}

/// Lines of six customers with a column of regions, some unknown.
daybook::LineTable lines_with_regions() {
  daybook::LineTable table;
  daybook::TextValues regions;
  for (const char* region : {"v1", "v2", "v3"}) regions.dictionary.push_back(region);
  for (int customer = 1; customer <= 6; ++customer)
    table.customer_ids.push_back("C" + std::to_string(customer));
  for (int line = pick(1, 12); line > 0; --line) {
    table.customer.push_back(static_cast<std::uint32_t>(pick(0, 5)));
    table.product.push_back(0);
    const int region = pick(0, 3);
    regions.codes.push_back(region == 3 ? daybook::kEmptyCode : static_cast<std::uint32_t>(region));
  }
  table.columns.push_back(
      {{"region", daybook::Level::customer, std::move(regions)}, {daybook::Level::customer}, true});
  return table;
}

RC_GTEST_PROP(MemberLists, FillTheColumnsOfLines, ()) {
  Known known;
  const daybook::MemberList list = random_list(known);
  daybook::LineTable table = lines_with_regions();
  const daybook::LineTable before = table;
  const auto replaced = pick(0, 1) == 0 ? daybook::Replaced::empty : daybook::Replaced::all;
  std::set<std::uint32_t> changed;
  const std::uint64_t count = daybook::fill_from_list(list, replaced, table);
  for (std::size_t line = 0; line < table.lines(); ++line) {
    const std::string own = daybook::value_text(before.columns[0].column.values, line);
    const auto& of_member = known[std::string(table.customer_ids[table.customer[line]])];
    const auto found = of_member.find("region");
    const bool is_replaced = found != of_member.end() && (own.empty() || replaced == daybook::Replaced::all);
    RC_ASSERT(daybook::value_text(table.columns[0].column.values, line) ==
              (is_replaced ? found->second : own));
    if (is_replaced && !own.empty() && own != found->second) changed.insert(table.customer[line]);
  }
  RC_ASSERT(count == changed.size());
}

}  // namespace
}  // namespace pear::test
