// The price of the time, and the running quantile that it follows.
#include "questions/prices/price_of_the_time.hpp"

#include <algorithm>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

/// Looks at all values for each day, and for each number of days around it.
double slow_quartile(const std::vector<prices::DatedValue>& values, std::int32_t day, std::size_t fewest) {
  const std::int32_t first = values.front().day, last = values.back().day;
  std::vector<double> window;
  for (std::int32_t around = 0; around <= last - first; ++around) {
    const std::size_t before = window.size();
    const bool was_one_sided = day - around < first || day + around > last;
    std::vector<double> wider;
    for (const auto& each : values)
      if (std::abs(each.day - day) <= around) wider.push_back(each.value);
    if (around > 0 && wider.size() == before) continue;
    if (around > 0 && (before >= fewest || (was_one_sided && 2 * before >= fewest))) break;
    window = wider;
  }
  std::sort(window.begin(), window.end());
  return window[(3 * window.size() + 3) / 4 - 1];
}

RC_GTEST_PROP(RunningUpperQuartile, IsThatOfTheNearestDays, ()) {
  std::vector<prices::DatedValue> values;
  for (int day = 0, count = pick(1, 40); count > 0; --count)
    values.push_back({day += pick(0, 3), static_cast<double>(pick(0, 30))});
  const auto fewest = static_cast<std::size_t>(pick(1, 12));
  const std::vector<double> quartiles = prices::running_upper_quartile(values, fewest);
  for (std::size_t i = 0; i < values.size(); ++i) {
    RC_ASSERT(quartiles[i] == slow_quartile(values, values[i].day, fewest));
  }
}

/// Every product changes its price now and then, for everyone; some days everything costs less. Nobody pays
/// less than the price of the time.
RC_GTEST_PROP(PriceOfTheTime, FollowsPricesThatApplyToEveryone, ()) {
  const int products = pick(1, 4), days = pick(1, 25), sale = pick(0, 30), change = pick(4, 20);
  Sales sales;
  for (int day = 0; day < days; ++day) {
    for (int customer = 0; customer < 16; ++customer) {  // enough to see a sale of one day
      for (int product = 0; product < products; ++product) {
        const int price =
            (1'000 + 300 * product) * ((day + product) / change % 3 + 2) * (day == sale ? 8 : 10);
        sales.push_back({fmt::format("A{}-{}", day, customer), fmt::format("2024-01-{:02}", day + 1),
                         fmt::format("C{}", customer), fmt::format("P{}", product), 1 + customer % 3, price});
      }
    }
  }
  const auto result = ask("prices", {{"at-least", "2"}}, sales);
  for (const auto& row : columns_of(table(result, "customers"), {"low_orders", "unexplained"}))
    RC_ASSERT(row == (Cells::value_type{"0", "1.000000"}));
}

}  // namespace
}  // namespace pear::test
