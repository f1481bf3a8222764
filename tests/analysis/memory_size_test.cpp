#include "analysis/options/memory_size.hpp"

#include <gtest/gtest.h>

namespace pear::test {
namespace {

TEST(MemorySize, IsANumberWithAUnit) {
  const auto bytes = [](std::string_view text) {
    return analysis::parse_memory("memory", text, 0).value_or(1);
  };
  EXPECT_EQ(bytes("500MB"), 500'000'000U);
  EXPECT_EQ(bytes("2 GB"), 2'000'000'000U);
  EXPECT_EQ(bytes("1.5gb"), 1'500'000'000U);
  EXPECT_EQ(bytes("0.25mb"), 250'000U);
  EXPECT_EQ(bytes("1000000GB"), 1'000'000'000'000'000U);
  for (const std::string_view wrong :
       {"", "2", "GB", "-1GB", "2 TB", "2GBs", "two GB", "1000001GB", "1,5GB"}) {
    const auto parsed = analysis::parse_memory("memory", wrong, 0);
    ASSERT_FALSE(parsed) << wrong;
    EXPECT_EQ(parsed.error().kind, ErrorKind::usage);
    EXPECT_EQ(parsed.error().message, "--memory " + std::string(wrong) +
                                          ": give an amount of memory with its unit, as 500MB or 2GB.");
  }
  EXPECT_EQ(analysis::parse_memory("memory", "199MB", 200'000'000).error().message,
            "--memory 199MB: the least is 200 MB.");
  EXPECT_TRUE(analysis::parse_memory("memory", "200MB", 200'000'000));
}

}  // namespace
}  // namespace pear::test
