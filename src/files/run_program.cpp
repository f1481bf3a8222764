#include "files/run_program.hpp"

#include <cerrno>
#include <csignal>
#include <cstring>
#include <poll.h>
#include <spawn.h>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/syscall.h>
#include <sys/wait.h>
#include <unistd.h>

#include "files/unfinished.hpp"

namespace pear::files {

namespace {

/// Whether the process ends in time.
bool ends(pid_t process, std::chrono::seconds longest) {
  const auto handle = static_cast<int>(syscall(SYS_pidfd_open, process, 0));
  if (handle < 0) return true;  // an old kernel: wait without a limit
  pollfd waiting{handle, POLLIN, 0};
  const auto milliseconds = std::chrono::duration_cast<std::chrono::milliseconds>(longest).count();
  const int ready = poll(&waiting, 1, static_cast<int>(milliseconds));
  close(handle);
  return ready != 0;
}

ProgramEnd end_of(pid_t process, std::chrono::seconds longest) {
  const bool in_time = ends(process, longest);
  if (!in_time) kill(process, SIGKILL);
  int status = 0;
  while (waitpid(process, &status, 0) < 0 && errno == EINTR) {
  }
  constexpr int kShellNotFound = 127;
  if (!in_time) return ProgramEnd::too_slow;
  if (WIFEXITED(status) && WEXITSTATUS(status) == kShellNotFound) return ProgramEnd::not_found;
  return WIFEXITED(status) && WEXITSTATUS(status) == 0 ? ProgramEnd::well : ProgramEnd::badly;
}

}  // namespace

OrError<ProgramEnd> run_program(const std::vector<std::string>& words, const std::string& folder,
                                const std::string& messages, std::chrono::seconds longest) {
  std::vector<char*> arguments;
  for (const std::string& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
  arguments.push_back(nullptr);
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addchdir_np(&actions, folder.c_str());
  posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, messages.c_str(), O_WRONLY | O_CREAT | O_TRUNC,
                                   0600);
  posix_spawn_file_actions_adddup2(&actions, STDOUT_FILENO, STDERR_FILENO);
  // The child must not inherit that our signals are blocked: see cli/signals.hpp.
  posix_spawnattr_t attributes;
  posix_spawnattr_init(&attributes);
  sigset_t none, defaults;
  sigemptyset(&none);
  sigemptyset(&defaults);
  sigaddset(&defaults, SIGPIPE);
  posix_spawnattr_setsigmask(&attributes, &none);
  posix_spawnattr_setsigdefault(&attributes, &defaults);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK | POSIX_SPAWN_SETSIGDEF);
  pid_t process = 0;
  auto uninterrupted = no_interruption();  // until the process is known as a child
  const int fault =
      posix_spawnp(&process, arguments.front(), &actions, &attributes, arguments.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  posix_spawnattr_destroy(&attributes);
  if (fault == ENOENT) return ProgramEnd::not_found;
  if (fault != 0) return io_error(fmt::format("cannot run {}: {}.", words.front(), std::strerror(fault)));
  const ChildProcess child(process);
  uninterrupted.unlock();
  return end_of(process, longest);
}

}  // namespace pear::files
