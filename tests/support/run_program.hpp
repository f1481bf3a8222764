// Runs the built program as a user would.
#pragma once

#include <string>
#include <vector>

#include "support/temporary_folder.hpp"

namespace pear::test {

struct ProgramRun {
  int exit_code = 0;
  std::string out;
  std::string err;
};

/// The program of the same build.
[[nodiscard]] std::string program_path();

/// Runs pear-thread in a folder with these words, through a shell's environment assignments
/// ("PATH=/nowhere").
[[nodiscard]] ProgramRun run_pear(const TemporaryFolder& folder, const std::vector<std::string>& words,
                                  const std::string& environment = "");

}  // namespace pear::test
