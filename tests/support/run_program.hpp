// Runs the built program as a user would.
#pragma once

#include <string>
#include <vector>

#include <sys/types.h>

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

/// Starts pear-thread in a folder and does not wait; standard error goes to the file `err` in it, if it is
/// named.
[[nodiscard]] pid_t start_pear(const TemporaryFolder& folder, const std::vector<std::string>& words,
                               const std::string& err = "/dev/null");

/// Waits for its end. The exit code as a shell shows it: 128 and the signal's number if it was killed.
int exit_code_of(pid_t process);

}  // namespace pear::test
