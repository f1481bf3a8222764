// Samples of whole customers.
#include "intake/clean/customer_sample.hpp"

#include <set>
#include <string>

#include <fmt/format.h>
#include <gtest/gtest.h>

namespace pear::test {
namespace {

TEST(CustomerSample, TakesTheCustomersOfTheStandardsHash) {
  // MD5 ("abc") = 900150983cd24fb0..., MD5 ("") = d41d8cd98f00b204... (RFC 1321, A.5)
  constexpr std::uint32_t kOfAbc = 0x90015098, kOfNothing = 0xd41d8cd9;
  for (std::uint32_t one_in = 2; one_in < 1'000; ++one_in) {
    EXPECT_EQ(intake::is_in_sample("abc", one_in), kOfAbc % one_in == 0) << one_in;
    EXPECT_EQ(intake::is_in_sample("", one_in), kOfNothing % one_in == 0) << one_in;
  }
}

TEST(CustomerSample, TakesItsShareAndSmallerSamplesAreParts) {
  int tenth = 0, fiftieth = 0;
  for (int customer = 0; customer < 50'000; ++customer) {
    const std::string id = fmt::format("C{}", customer);
    tenth += intake::is_in_sample(id, 10) ? 1 : 0;
    fiftieth += intake::is_in_sample(id, 50) ? 1 : 0;
    EXPECT_LE(intake::is_in_sample(id, 50), intake::is_in_sample(id, 10));
  }
  EXPECT_NEAR(tenth, 5'000, 300);
  EXPECT_NEAR(fiftieth, 1'000, 140);
}

TEST(CustomerSample, RejectsWhatIsNoSample) {
  EXPECT_EQ(*intake::parse_sample("1/50"), 50U);
  for (const char* text : {"50", "1/", "1/1", "2/50", "1/50x", "1/2000000", "", "5%"})
    EXPECT_EQ(intake::parse_sample(text).error().message,
              fmt::format(
                  "--customers takes a sample such as 1/50, up to 1/1000000, not \"{}\". To import the lines "
                  "of chosen customers, use [[exclude]] in the intake file.",
                  text));
}

}  // namespace
}  // namespace pear::test
