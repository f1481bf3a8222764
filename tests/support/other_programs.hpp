// Other programs that read our files.
#pragma once

#include <cstdlib>
#include <string>

#include <sys/wait.h>

#include "support/temporary_folder.hpp"

namespace pear::test {

struct OtherRun {
  int exit_code = 0;
  std::string out, err;
};

/// Runs a command line of the shell.
[[nodiscard]] inline OtherRun run_other(const std::string& command) {
  const TemporaryFolder said;
  const int status = std::system(
      ("( " + command + " ) </dev/null >'" + said / "out" + "' 2>'" + said / "err" + "'").c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, read_file(said / "out"), read_file(said / "err")};
}

/// Opens a page in headless Chromium, and returns its document after its scripts ran. Console messages of the
/// page are in `err`, in lines with CONSOLE.
[[nodiscard]] inline OtherRun visit(const std::string& path) {
  const TemporaryFolder profile;
  return run_other(
      "timeout 120 chromium --headless --no-sandbox --disable-gpu --disable-quic --no-first-run "
      "--disable-background-networking --disable-component-update --disable-sync --enable-logging=stderr "
      "--user-data-dir='" +
      profile / "p" + "' --dump-dom 'file://" + path + "'");
}

}  // namespace pear::test
