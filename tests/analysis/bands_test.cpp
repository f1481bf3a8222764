// Bands of values.
#include "analysis/bands.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/decimal.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// The label of the band of a number; "-" if it is outside all bands.
std::string label(const std::string& bands, const std::string& value) {
  const auto parsed = analysis::parse_bands(bands);
  if (!parsed) return parsed.error().message;
  const auto place = analysis::band_of(*parsed, Decimal::parse(value)->units());
  return place ? (*parsed)[*place].label : "-";
}

TEST(Bands, IncludeBothEndsUnlessTheNextBeginsThere) {
  EXPECT_EQ(label("1,2-5,6-10,11+", "5"), "2-5");
  EXPECT_EQ(label("1,2-5,6-10,11+", "5.5"), "-");
  EXPECT_EQ(label("1,2-5,6-10,11+", "1000"), "11+");
  EXPECT_EQ(label("1,2-5,6-10,11+", "0"), "-");
  EXPECT_EQ(label("0-100,100-500,500+", "100"), "100-500");
  EXPECT_EQ(label("0-100,100-500,500+", "99.9999"), "0-100");
  EXPECT_EQ(label("-50-0,0-10", "-50"), "-50-0");
  EXPECT_EQ(label("-50-0,0-10", "10"), "0-10");
}

TEST(Bands, ReportsMistakes) {
  EXPECT_EQ(
      label("1,2-x", "1"),
      "--bands takes numbers and ranges with commas between them, such as 1,2-5,6-10,11+, not \"2-x\".");
  EXPECT_EQ(label("1,,2", "1"),
            "--bands takes numbers and ranges with commas between them, such as 1,2-5,6-10,11+, not \"\".");
  EXPECT_EQ(label("5-2", "1"), "--bands: \"5-2\" ends before it begins.");
  EXPECT_EQ(label("1-5,3-9", "1"),
            "--bands: \"1-5\" and \"3-9\" overlap or are in the wrong order. Write the bands in rising "
            "order, without overlaps.");
  EXPECT_EQ(label("6+,7-9", "1"),
            "--bands: \"6+\" and \"7-9\" overlap or are in the wrong order. Write the bands in rising order, "
            "without overlaps.");
}

/// Suggested bands can be used without changes, and include every value from 0 on.
RC_GTEST_PROP(Bands, SuggestionsIncludeAllValues, ()) {
  std::vector<std::int64_t> units;
  for (int i = pick(1, 30); i > 0; --i) units.push_back(std::int64_t{pick(0, 2'000'000)} * pick(1, 300));
  const auto bands = analysis::parse_bands(analysis::suggested_bands(units));
  RC_ASSERT(bands.has_value());
  for (const std::int64_t value : units) RC_ASSERT(analysis::band_of(*bands, value).has_value());
}

}  // namespace
}  // namespace pear::test
