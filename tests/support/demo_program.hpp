// The built program on the made-up shop.
#pragma once

#include <filesystem>
#include <string>

#include <gtest/gtest.h>

#include "support/run_program.hpp"

namespace pear::test {

/// The demo in d/ of a folder, once for all tests of a suite: a copy of the shop that ctest has made, or else
/// a new one.
template <class Suite>
class DemoProgram : public testing::Test {
 protected:
  static void SetUpTestSuite() {
    folder_ = new TemporaryFolder;
    if (std::filesystem::exists(PEAR_TEST_SHOP))
      std::filesystem::copy(PEAR_TEST_SHOP, *folder_ / "d", std::filesystem::copy_options::recursive);
    else
      EXPECT_EQ(run_pear(*folder_, {"demo", "d", "--quiet"}).exit_code, 0);
  }
  static void TearDownTestSuite() {
    delete folder_;
    folder_ = nullptr;
  }
  static std::string path(const std::string& name) { return *folder_ / name; }

  static inline TemporaryFolder* folder_ = nullptr;
};

}  // namespace pear::test
