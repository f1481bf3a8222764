#include "files/run_program.hpp"

#include <cerrno>
#include <cstring>
#include <spawn.h>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

namespace pear::files {

OrError<ProgramEnd> run_program(const std::vector<std::string>& words, const std::string& folder,
                                const std::string& messages) {
  std::vector<char*> arguments;
  for (const std::string& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
  arguments.push_back(nullptr);
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addchdir_np(&actions, folder.c_str());
  posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, messages.c_str(), O_WRONLY | O_CREAT | O_TRUNC,
                                   0600);
  posix_spawn_file_actions_adddup2(&actions, STDOUT_FILENO, STDERR_FILENO);
  pid_t process = 0;
  const int fault = posix_spawnp(&process, arguments.front(), &actions, nullptr, arguments.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  if (fault == ENOENT) return ProgramEnd::not_found;
  if (fault != 0) return io_error(fmt::format("cannot run {}: {}.", words.front(), std::strerror(fault)));
  int status = 0;
  while (waitpid(process, &status, 0) < 0 && errno == EINTR) {
  }
  constexpr int kShellNotFound = 127;
  if (WIFEXITED(status) && WEXITSTATUS(status) == kShellNotFound) return ProgramEnd::not_found;
  return WIFEXITED(status) && WEXITSTATUS(status) == 0 ? ProgramEnd::well : ProgramEnd::badly;
}

}  // namespace pear::files
