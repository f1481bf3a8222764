#include "statistics/survival.hpp"

#include <algorithm>
#include <cmath>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// 21 cases with the event at 6 (three), 7, 10, 13, 16, 22 and 23 weeks; the others were followed until 6, 9,
/// 10, 11, 17, 19, 20, 25, 32 (two), 34 and 35. The estimates and Greenwood's standard errors of the
/// textbooks (Kalbfleisch and Prentice, 1980, after Freireich and others, Blood 21, 1963).
TEST(Survival, EqualsAPublishedExample) {
  std::vector<std::uint32_t> events(36), ends(36);
  for (const std::size_t week : {6U, 6U, 6U, 7U, 10U, 13U, 16U, 22U, 23U}) ++events[week];
  for (const std::size_t week : {6U, 9U, 10U, 11U, 17U, 19U, 20U, 25U, 32U, 32U, 34U, 35U}) ++ends[week];
  const auto days = statistics::kaplan_meier(events, ends, 21);
  struct Published {
    std::size_t week;
    std::uint64_t at_risk;
    double left, error;
  };
  for (const auto& [week, at_risk, left, error] :
       {Published{6, 21, 0.8571, 0.0764}, Published{7, 17, 0.8067, 0.0869}, Published{10, 15, 0.7529, 0.0963},
        Published{13, 12, 0.6902, 0.1068}, Published{16, 11, 0.6275, 0.1141},
        Published{22, 7, 0.5378, 0.1282}, Published{23, 6, 0.4482, 0.1346}}) {
    EXPECT_EQ(days[week].at_risk, at_risk) << week;
    EXPECT_NEAR(1 - days[week].share, left, 0.0001) << week;
    // log(-log(left)) plus and minus 1.96 times error / (left |log(left)|)
    const double width = 1.959964 * error / (left * std::abs(std::log(left)));
    EXPECT_NEAR(1 - days[week].low, std::pow(left, std::exp(-width)), 0.001) << week;
    EXPECT_NEAR(1 - days[week].high, std::pow(left, std::exp(width)), 0.001) << week;
  }
  EXPECT_EQ(days[24].share, days[23].share);
  EXPECT_TRUE(days[35].is_known);
}

/// Without ends before the last day, it is the share of all cases.
RC_GTEST_PROP(Survival, IsAShareWhereEveryoneIsFollowed, ()) {
  std::vector<std::uint32_t> events(static_cast<std::size_t>(pick(1, 20)));
  std::uint64_t happened = 0;
  for (std::uint32_t& each : events) happened += each = static_cast<std::uint32_t>(pick(0, 3));
  const std::uint64_t all = happened + static_cast<std::uint64_t>(pick(0, 5));
  RC_PRE(all > 0);
  const auto days = statistics::kaplan_meier(events, std::vector<std::uint32_t>(events.size()), all);
  std::uint64_t so_far = 0;
  for (std::size_t d = 0; d < days.size(); ++d) {
    RC_ASSERT(days[d].at_risk == all - so_far);
    so_far += events[d];
    const double share = static_cast<double>(so_far) / static_cast<double>(all);
    RC_ASSERT(std::abs(days[d].share - share) < 1e-9);
    RC_ASSERT(days[d].low >= 0 && days[d].high <= 1);
    if (so_far > 0 && so_far < all) RC_ASSERT(days[d].low < share && share < days[d].high);
    if (so_far == 0 || so_far == all)
      RC_ASSERT(days[d].low == days[d].share && days[d].high == days[d].share);
  }
}

TEST(Survival, SaysWhereNobodyIsFollowed) {
  const auto days = statistics::kaplan_meier({1, 0, 0}, {1, 0, 0}, 2);
  EXPECT_EQ(days[0].share, 0.5);
  EXPECT_TRUE(days[0].is_known);
  EXPECT_FALSE(days[1].is_known);
  EXPECT_EQ(days[2].share, 0.5);
  EXPECT_TRUE(statistics::kaplan_meier({2, 0}, {0, 0}, 2)[1].is_known) << "everyone had the event";
}

}  // namespace
}  // namespace pear::test
