// The built program on the made-up shop.
#pragma once

#include <string>

#include <gtest/gtest.h>

#include "support/run_program.hpp"

namespace pear::test {

/// The demo is made once for all tests of a suite, in d/ of the folder.
template <class Suite>
class DemoProgram : public testing::Test {
 protected:
  static void SetUpTestSuite() {
    folder_ = new TemporaryFolder;
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
