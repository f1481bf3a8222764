#include "support/run_program.hpp"

#include <cstdlib>

#include <sys/wait.h>

namespace pear::test {

std::string program_path() { return PEAR_PROGRAM; }

ProgramRun run_pear(const TemporaryFolder& folder, const std::vector<std::string>& words,
                    const std::string& environment) {
  const TemporaryFolder said;
  std::string command = "cd '" + folder.path() + "' && " + environment + " '" + program_path() + "'";
  for (const std::string& word : words) {
    command += " '";
    for (const char c : word) command += c == '\'' ? std::string("'\\''") : std::string(1, c);
    command += "'";
  }
  command += " </dev/null >'" + said / "out" + "' 2>'" + said / "err" + "'";
  const int status = std::system(command.c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, read_file(said / "out"), read_file(said / "err")};
}

}  // namespace pear::test
