// Shares, lengths of time and days as people write them in options.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/options/day_span.hpp"
#include "analysis/options/length_of_time.hpp"
#include "analysis/options/share.hpp"
#include "base/whole_months.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

std::string share(std::string_view text, std::int64_t highest = analysis::kWholeShare) {
  const auto read = analysis::parse_share("x", text, 0, highest);
  return read ? std::to_string(*read) : read.error().message;
}

TEST(Share, IsWrittenInTwoWaysAndNeverBare) {
  EXPECT_EQ(share("5%"), "50000");
  EXPECT_EQ(share("0.05"), "50000");
  EXPECT_EQ(share("1"), "1000000");
  EXPECT_EQ(share("0.5%"), "5000");
  EXPECT_EQ(share("95"), "--x 95: a number above 1 needs a per cent sign. Write 95% or 0.95.");
  EXPECT_EQ(share("110"), "--x 110: a number above 1 needs a per cent sign. Write 110%.");
  EXPECT_EQ(share("110%", analysis::kNoHighestShare), "1100000");
  EXPECT_EQ(share("110%"), "--x takes a share from 0% to 100%, such as 0.05 or 5%, not \"110%\".");
  EXPECT_EQ(share("-1%"), "--x takes a share from 0% to 100%, such as 0.05 or 5%, not \"-1%\".");
  EXPECT_EQ(share("few"), "--x takes a share such as 0.05 or 5%, not \"few\".");
}

RC_GTEST_PROP(Share, IsTheSameInBothWays, ()) {
  const int per_cent = pick(0, 100);
  RC_ASSERT(share(fmt::format("{}%", per_cent)) == share(fmt::format("{:.2f}", per_cent / 100.0)));
}

TEST(LengthOfTime, IsReadInAnyUnit) {
  const auto days = [](std::string_view text) {
    return analysis::parse_days("x", text, 1, 36'500).value_or(-1);
  };
  for (const auto& [text, expected] : std::vector<std::pair<std::string, int>>{{"90", 90},
                                                                               {"90 days", 90},
                                                                               {"1 day", 1},
                                                                               {"2 weeks", 14},
                                                                               {"1 month", 30},
                                                                               {"3 months", 91},
                                                                               {"1 year", 365},
                                                                               {"2 years", 730},
                                                                               {"1 quarter", 91}})
    EXPECT_EQ(days(text), expected) << text;
  for (const char* text : {"0", "soon", "", "9 0", "90 ", "90days ago", "3 moons", "-3 days", "1.5 years",
                           "s", "90s", "101 years", "99999999999999999999"})
    EXPECT_EQ(days(text), -1) << text;
}

std::string span(std::string_view text, Date data_end) {
  const auto read = analysis::parse_day_span("from", text, data_end);
  return read ? to_text(read->first) + " " + to_text(read->last) : "fault";
}

TEST(DaySpan, ReadsCalendarAndRelativeDays) {
  const Date end = date_of(2024, 11, 13);  // a Wednesday
  for (const auto& [text, expected] :
       std::vector<std::pair<std::string, std::string>>{{"2024-04-01", "2024-04-01 2024-04-01"},
                                                        {"2024-02", "2024-02-01 2024-02-29"},
                                                        {"2023-Q4", "2023-10-01 2023-12-31"},
                                                        {"2025-W01", "2024-12-30 2025-01-05"},
                                                        {"2023", "2023-01-01 2023-12-31"},
                                                        {"last 12 months", "2023-11-14 2024-11-13"},
                                                        {"last 2 weeks", "2024-10-31 2024-11-13"},
                                                        {"last month", "2024-10-01 2024-10-31"},
                                                        {"this month", "2024-11-01 2024-11-30"},
                                                        {"last week", "2024-11-04 2024-11-10"},
                                                        {"this quarter", "2024-10-01 2024-12-31"},
                                                        {"last year", "2023-01-01 2023-12-31"},
                                                        {"end of last quarter", "2024-09-30 2024-09-30"},
                                                        {"start of this year", "2024-01-01 2024-01-01"},
                                                        {"30 days ago", "2024-10-14 2024-10-14"},
                                                        {"this day", "2024-11-13 2024-11-13"},
                                                        {"last day", "2024-11-12 2024-11-12"},
                                                        {"last 1 day", "2024-11-13 2024-11-13"},
                                                        {"this week", "2024-11-11 2024-11-17"},
                                                        {"start of last week", "2024-11-04 2024-11-04"},
                                                        {"end of this month", "2024-11-30 2024-11-30"},
                                                        {"1 year ago", "2023-11-13 2023-11-13"},
                                                        {"2 quarters ago", "2024-05-13 2024-05-13"},
                                                        {"last quarter", "2024-07-01 2024-09-30"},
                                                        {"2026-W53", "2026-12-28 2027-01-03"},
                                                        {"1 month ago", "2024-10-13 2024-10-13"}})
    EXPECT_EQ(span(text, end), expected) << text;
  for (const char* text :
       {"", "1.4.2024", "2024-13", "2024-Q5", "2024-W54", "last", "last 0 months", "months ago",
        "last 3 moons", "end of", "end of last 3 months", "next year", "2024-04-01 10:00"})
    EXPECT_EQ(span(text, end), "fault") << text;
}

/// "last N months" of data that ends with a month are N whole months.
RC_GTEST_PROP(DaySpan, MonthsThatEndWithAMonthAreWhole, ()) {
  const int months = pick(1, 40);
  const std::int32_t index = month_of(date_of(pick(1990, 2030), static_cast<unsigned>(pick(1, 12)), 1)).index;
  const auto first_of = [](std::int32_t month) {
    return date_of(month / 12, static_cast<unsigned>(month % 12 + 1), 1);
  };
  const Date end{first_of(index + 1).days - 1};
  const auto read = analysis::parse_day_span("from", fmt::format("last {} months", months), end);
  RC_ASSERT(read.has_value());
  RC_ASSERT(read->first == first_of(index + 1 - months));
  RC_ASSERT(read->last == end);
  RC_ASSERT(whole_months_between(months_before(end, months), end) <= months);
}

}  // namespace
}  // namespace pear::test
