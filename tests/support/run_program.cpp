#include "support/run_program.hpp"

#include <cstdio>
#include <cstdlib>

#include <sys/wait.h>
#include <unistd.h>

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

pid_t start_pear(const TemporaryFolder& folder, const std::vector<std::string>& words,
                 const std::string& err) {
  const std::string program = program_path();
  std::vector<char*> arguments = {const_cast<char*>(program.c_str())};
  for (const std::string& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
  arguments.push_back(nullptr);
  const pid_t process = fork();
  if (process != 0) return process;
  const bool is_ready = chdir(folder.path().c_str()) == 0 &&
                        std::freopen("/dev/null", "w", stdout) != nullptr &&
                        std::freopen(err.c_str(), "w", stderr) != nullptr;
  if (is_ready) execv(program.c_str(), arguments.data());
  _exit(127);
}

int exit_code_of(pid_t process) {
  int status = 0;
  waitpid(process, &status, 0);
  return WIFSIGNALED(status) ? 128 + WTERMSIG(status) : WEXITSTATUS(status);
}

}  // namespace pear::test
