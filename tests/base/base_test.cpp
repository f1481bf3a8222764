#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "base/text_array.hpp"

namespace pear {
namespace {

std::int64_t any_units() {
  const auto units = *rc::gen::arbitrary<std::int64_t>();
  return units == std::numeric_limits<std::int64_t>::min() ? 0 : units >> *rc::gen::inRange(0, 63);
}

RC_GTEST_PROP(Decimal, TextParsesBackToTheSameValue, ()) {
  const Decimal value = Decimal::from_units(any_units());
  const int places = *rc::gen::inRange(0, 5);
  RC_ASSERT(Decimal::parse(value.to_text(places)) == value);
}

/// The product by hand: digits of a 128-bit product, rounded by the fifth decimal place.
RC_GTEST_PROP(Decimal, ProductRoundsHalfAwayFromZero, ()) {
  const std::int64_t a = any_units();
  const std::int64_t b = any_units();
  const Int128 exact = Int128{a} * b;
  const Int128 magnitude = exact < 0 ? -exact : exact;
  Int128 expected = magnitude / 10'000 + (magnitude % 10'000 >= 5'000 ? 1 : 0);
  if (exact < 0) expected = -expected;
  const auto product = checked_multiply(Decimal::from_units(a), Decimal::from_units(b));
  const bool fits = expected <= std::numeric_limits<std::int64_t>::max() &&
                    -expected <= std::numeric_limits<std::int64_t>::max();
  RC_ASSERT(product.has_value() == fits);
  if (fits) RC_ASSERT(product->units() == static_cast<std::int64_t>(expected));
}

RC_GTEST_PROP(Decimal, SumsReportOverflow, ()) {
  const std::int64_t a = any_units();
  const std::int64_t b = any_units();
  std::int64_t expected = 0;
  const bool overflow =
      __builtin_add_overflow(a, b, &expected) || expected == std::numeric_limits<std::int64_t>::min();
  const auto sum = checked_add(Decimal::from_units(a), Decimal::from_units(b));
  RC_ASSERT(sum.has_value() == !overflow);
  if (sum) RC_ASSERT(checked_subtract(*sum, Decimal::from_units(b)) == Decimal::from_units(a));
  DecimalSum running;
  running.add(Decimal::from_units(a));
  running.add(Decimal::from_units(b));
  RC_ASSERT(running.total() == sum);
}

TEST(Decimal, ReadsPlainNumbersAndNothingElse) {
  const auto fault = [](const char* text) { return Decimal::parse(text).error(); };
  EXPECT_EQ(Decimal::parse("+3.1")->units(), 31'000);
  EXPECT_EQ(Decimal::parse(".5")->units(), 5'000);
  EXPECT_EQ(Decimal::parse("-0.00010000000000000")->units(), -1);
  EXPECT_EQ(Decimal::parse("922337203685477.5807")->units(), std::numeric_limits<std::int64_t>::max());
  EXPECT_EQ(fault("922337203685477.5808"), DecimalFault::too_large);
  EXPECT_EQ(fault("99999999999999999999999999"), DecimalFault::too_large);
  EXPECT_EQ(fault("1.00001"), DecimalFault::too_many_places);
  EXPECT_EQ(fault(""), DecimalFault::empty);
  for (const char* text : {".", "-", "1,5", "1e3", " 1", "1 ", "1.2.3", "0x1", "--1", "one"})
    EXPECT_EQ(fault(text), DecimalFault::not_a_number) << text;
}

TEST(Date, EveryDayOf600YearsReadsBackAndFollowsThePreviousOne) {
  std::string before;
  for (std::int32_t days = date_of(1700, 1, 1).days; days < date_of(2300, 1, 1).days; ++days) {
    const std::string text = to_text(Date{days});
    ASSERT_EQ(parse_iso_moment(text)->date.days, days);
    ASSERT_LT(before, text);
    ASSERT_EQ(to_text(month_of(Date{days})), text.substr(0, 7));
    before = text;
  }
}

TEST(Date, EverySecondOfADayReadsBack) {
  for (std::int32_t second = 0; second < 86'400; ++second) {
    const auto moment = parse_iso_moment("2024-02-29 " + time_of_day_text(second));
    ASSERT_TRUE(moment && moment->second_of_day == second) << time_of_day_text(second);
  }
}

TEST(Date, ReadsTimesAndRejectsImpossibleOnes) {
  EXPECT_EQ(parse_iso_moment("2024-02-29T23:59:58.123")->second_of_day, 86'398);
  EXPECT_EQ(parse_iso_moment("2024-02-29 00:00")->second_of_day, 0);
  EXPECT_EQ(parse_iso_moment("2024-02-29")->second_of_day, Moment::kNoTime);
  for (const char* text : {"2023-02-29", "2024-13-01", "2024-00-10", "2024-04-31"})
    EXPECT_EQ(parse_iso_moment(text).error(), DateFault::no_such_day) << text;
  for (const char* text : {"2024-1-1", "01.02.2024", "0024-01-01", "2024-01-01T24:00", "2024-01-01 10:00Z",
                           "2024-01-01x", "2024-01-01 10:00:60", "2024-01-01 10:00:00."})
    EXPECT_EQ(parse_iso_moment(text).error(), DateFault::not_a_date) << text;
}

/// A text cut into runs of digits and single other bytes.
std::vector<std::string> runs(const std::string& text) {
  std::vector<std::string> parts;
  for (const char c : text) {
    const bool digit = c >= '0' && c <= '9';
    const bool follows = digit && !parts.empty() && parts.back()[0] >= '0' && parts.back()[0] <= '9';
    if (follows)
      parts.back() += c;
    else
      parts.emplace_back(1, c);
  }
  return parts;
}

/// Compares run by run: numbers by value (few digits here, so that they fit), everything else by byte.
int slow_compare(const std::string& a, const std::string& b) {
  const auto x = runs(a);
  const auto y = runs(b);
  for (std::size_t i = 0; i < x.size() && i < y.size(); ++i) {
    const bool numbers = isdigit(x[i][0]) != 0 && isdigit(y[i][0]) != 0;
    if (numbers && std::stoull(x[i]) != std::stoull(y[i]))
      return std::stoull(x[i]) < std::stoull(y[i]) ? -1 : 1;
    if (!numbers && x[i] != y[i]) return x[i][0] < y[i][0] ? -1 : 1;
  }
  if (x.size() != y.size()) return x.size() < y.size() ? -1 : 1;
  return a.compare(b) < 0 ? -1 : a == b ? 0 : 1;
}

RC_GTEST_PROP(NaturalOrder, EqualsItsTwin, ()) {
  const auto id =
      rc::gen::resize(14, rc::gen::container<std::string>(rc::gen::elementOf(std::string("P0019-a"))));
  const std::string a = *id;
  const std::string b = *id;
  const auto order = natural_compare(a, b);
  RC_ASSERT((order < 0 ? -1 : order > 0 ? 1 : 0) == slow_compare(a, b));
  RC_ASSERT((natural_compare(b, a) > 0 ? 1 : 0) == (order < 0 ? 1 : 0));
  RC_ASSERT((natural_compare(a, a) == 0));
}

TEST(NaturalOrder, SortsNineBeforeTen) {
  EXPECT_TRUE(natural_compare("P9", "P10") < 0);
  EXPECT_TRUE(natural_compare("P9", "P09x") < 0);
  EXPECT_TRUE(natural_compare("P9", "P09") != 0);
}

TEST(Text, SuggestsOnlyCloseNames) {
  const std::vector<std::string> names = {"order_id", "customer_id", "quantity"};
  EXPECT_EQ(nearest_name("Oder ID", names), "order_id");
  EXPECT_EQ(nearest_name("quantiy", names), "quantity");
  EXPECT_EQ(nearest_name("colour", names), std::nullopt);
  EXPECT_EQ(did_you_mean("custmer_id", names), " Did you mean \"customer_id\"?");
}

TEST(Text, FormatsCountsAndNames) {
  EXPECT_EQ(snake_case("  Order No. (new)"), "order_no_new");
  EXPECT_EQ(snake_case("Größe"), "größe");
  EXPECT_EQ(with_thousands(-1234567), "-1,234,567");
  EXPECT_EQ(with_thousands(123), "123");
  EXPECT_EQ(counted(1, "customer"), "1 customer");
  EXPECT_EQ(counted(2000, "row was", "rows were"), "2,000 rows were");
  EXPECT_EQ(in_quotes("a\tb"), "\"a\\x09b\"");
}

RC_GTEST_PROP(TextArray, ReturnsWhatWasAdded, (const std::vector<std::string>& texts)) {
  TextArray array, twice;
  for (const std::string& text : texts) array.push_back(text);
  twice.append(array);
  twice.append(array);
  RC_ASSERT(twice.size() == 2 * texts.size());
  for (std::size_t i = 0; i < twice.size(); ++i) RC_ASSERT(twice[i] == texts[i % texts.size()]);
}

}  // namespace
}  // namespace pear
