// Rounding, averages and texts of numbers, against long division by hand.
#include <algorithm>
#include <limits>
#include <vector>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text.hpp"
#include "base/whole_months.hpp"

namespace pear {
namespace {

constexpr std::int64_t kLargest = std::numeric_limits<std::int64_t>::max();

/// Of every size, the limits and halves among them.
std::int64_t made_up_units() {
  const auto units = *rc::gen::arbitrary<std::int64_t>() >> *rc::gen::inRange(0, 63);
  const auto near = *rc::gen::inRange<std::int64_t>(0, 100'000);
  return *rc::gen::elementOf(
      std::vector<std::int64_t>{std::max(units, -kLargest), kLargest - near, near - kLargest, near * 500});
}

/// a / b rounded half away from zero; b > 0. By repeated steps of ten, as on paper.
Int128 divided_on_paper(Int128 a, Int128 b) {
  const Int128 magnitude = a < 0 ? -a : a;
  const Int128 whole = magnitude / b, rest = magnitude % b;
  const Int128 rounded = whole + (rest >= b - rest ? 1 : 0);
  return a < 0 ? -rounded : rounded;
}

std::string digits_of(Int128 value) {
  std::string digits;
  for (; value > 0; value /= 10)
    digits.insert(digits.begin(), static_cast<char>('0' + static_cast<int>(value % 10)));
  return digits;
}

RC_GTEST_PROP(Rounding, ParsesAsManyPlacesAsThereAre, ()) {
  const std::int64_t units = made_up_units();
  const int places = *rc::gen::inRange(1, 6);  // after the fourth
  std::int64_t more = 0, scale = 1;
  for (int i = 0; i < places; ++i, scale *= 10) more = more * 10 + *rc::gen::inRange<std::int64_t>(0, 10);
  const std::string exact = Decimal::from_units(units).to_text(4);
  const std::string text = fmt::format("{}{:0{}}", exact, more, places);
  const Int128 magnitude = (units < 0 ? -Int128{units} : Int128{units}) * scale + more;
  const Int128 expected = divided_on_paper(exact.starts_with('-') ? -magnitude : magnitude, scale);
  const auto rounded = Decimal::parse_rounded(text);
  if (expected > kLargest || expected < -Int128{kLargest}) {
    RC_ASSERT(!rounded && rounded.error() == DecimalFault::too_large);
  } else {
    RC_ASSERT(rounded && rounded->units() == static_cast<std::int64_t>(expected));
  }
  RC_ASSERT(Decimal::parse(text).has_value() == (more == 0));
}

RC_GTEST_PROP(Rounding, OfPricesAndMeansIsHalfAwayFromZero, ()) {
  const std::int64_t amount = made_up_units(), quantity = made_up_units();
  const auto price = price_of_piece(Decimal::from_units(amount), Decimal::from_units(quantity));
  if (quantity <= 0) {
    RC_ASSERT(!price);
  } else {
    const Int128 expected = divided_on_paper(Int128{amount} * Decimal::kScale, quantity);
    const bool fits = expected <= kLargest && expected >= -Int128{kLargest};
    RC_ASSERT(price.has_value() == fits);
    if (fits) RC_ASSERT(price->units() == static_cast<std::int64_t>(expected));
  }
  DecimalSum sum, other;
  sum.add(Decimal::from_units(amount));
  other.add(Decimal::from_units(quantity));
  sum.add(other);
  const auto count = *rc::gen::inRange<std::uint64_t>(2, 1'000);
  RC_ASSERT(sum.mean(count)->units() == static_cast<std::int64_t>(divided_on_paper(
                                            Int128{amount} + quantity, static_cast<Int128>(count))));
  RC_ASSERT(sum.approximate() == (static_cast<double>(Int128{amount} + quantity)) / 10'000);
}

RC_GTEST_PROP(Rounding, OfShownNumbersKeepsThousandsApart, ()) {
  const std::int64_t units = made_up_units();
  const int places = *rc::gen::inRange(0, 5);
  Int128 step = 1;
  for (int i = places; i < 4; ++i) step *= 10;
  const Int128 steps = divided_on_paper(units, step);
  std::string digits = digits_of(steps < 0 ? -steps : steps);
  while (digits.size() <= static_cast<std::size_t>(places)) digits.insert(0, "0");
  std::string expected = digits.substr(digits.size() - static_cast<std::size_t>(places));
  if (places > 0) expected.insert(0, ".");
  digits.resize(digits.size() - static_cast<std::size_t>(places));
  for (std::size_t i = 0; i < digits.size(); ++i) {
    if (i > 0 && i % 3 == 0) expected.insert(0, ",");
    expected.insert(0, 1, digits[digits.size() - 1 - i]);
  }
  RC_ASSERT(with_thousands(Decimal::from_units(units), places) == (steps < 0 ? "-" : "") + expected);
}

TEST(Rounding, ShowsMoneyWithTwoPlacesOrMore) {
  const auto shown = [](std::int64_t units) { return with_thousands(Decimal::from_units(units)); };
  EXPECT_EQ(shown(12'345'678), "1,234.5678");
  EXPECT_EQ(shown(12'345'000), "1,234.50");
  EXPECT_EQ(shown(10'000'000), "1,000.00");
  EXPECT_EQ(shown(-5'000), "-0.50");
  EXPECT_EQ(with_thousands(Decimal::from_units(-5'000), -1), "-0.5");
  EXPECT_EQ(with_thousands(Decimal::from_units(20'000), -1), "2");
}

TEST(Rounding, FaultsArePartsOfSentences) {
  EXPECT_EQ(describe(DecimalFault::empty), "is empty");
  EXPECT_EQ(describe(DecimalFault::not_a_number), "is not a number");
  EXPECT_EQ(describe(DecimalFault::too_many_places), "has more than 4 decimal places");
  EXPECT_EQ(describe(DecimalFault::too_large), "is too large");
  EXPECT_EQ(describe(DateFault::empty), "is empty");
  EXPECT_EQ(describe(DateFault::not_a_date), "is not a date (YYYY-MM-DD)");
  EXPECT_EQ(describe(DateFault::no_such_day), "is a day that does not exist");
}

/// Month by month, by counting days of the text "YYYY-MM-DD".
RC_GTEST_PROP(Months, AreWholeFromADayToTheSameDay, ()) {
  const Date from{*rc::gen::inRange<std::int32_t>(0, 30'000)};
  const Date to{from.days + *rc::gen::inRange<std::int32_t>(0, 2'000)};
  const auto part = [](Date date, std::size_t at, std::size_t size) {
    return std::stoi(to_text(date).substr(at, size));
  };
  int months = 0, first_of_month = 0;
  for (Date day = from; day < to;) {
    ++day.days;
    first_of_month = part(day, 8, 2) == 1 ? 1 : 0;
    months += first_of_month;
  }
  const int expected = months - (part(to, 8, 2) < part(from, 8, 2) ? 1 : 0);
  RC_ASSERT(whole_months_between(from, to) == expected);
  RC_ASSERT(month_of(to).index - month_of(from).index == months);
}

TEST(Months, BeforeADayKeepTheDayOrTheEndOfTheMonth) {
  const auto before = [](int year, unsigned month, unsigned day, std::int32_t months) {
    return to_text(months_before(date_of(year, month, day), months));
  };
  EXPECT_EQ(before(2024, 5, 15, 1), "2024-04-15");
  EXPECT_EQ(before(2024, 3, 31, 1), "2024-02-29");
  EXPECT_EQ(before(2024, 3, 30, 1), "2024-02-29");
  EXPECT_EQ(before(2024, 2, 29, 1), "2024-01-31");  // the last day stays the last
  EXPECT_EQ(before(2023, 2, 28, 12), "2022-02-28");
  EXPECT_EQ(before(2024, 2, 28, 1), "2024-01-28");
  EXPECT_EQ(before(2024, 1, 15, 13), "2022-12-15");
  EXPECT_EQ(before(2024, 1, 15, 0), "2024-01-15");
}

}  // namespace
}  // namespace pear
