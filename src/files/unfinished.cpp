#include "files/unfinished.hpp"

#include <cerrno>
#include <csignal>
#include <filesystem>
#include <set>
#include <system_error>
#include <utility>

#include <sys/wait.h>

namespace pear::files {
namespace {

struct Registry {
  std::recursive_mutex mutex;
  std::set<std::string> paths;
  std::set<pid_t> processes;
};

/// Never destroyed, because a signal may come while the program ends.
Registry& registry() {
  static auto* const all = new Registry;
  return *all;
}

/// A killed process may still be creating a file. Leaves its exit status to the thread that runs it.
void wait_for_end(pid_t process) {
  siginfo_t end{};
  while (waitid(P_PID, static_cast<id_t>(process), &end, WEXITED | WNOWAIT) != 0 && errno == EINTR) {
  }
}

/// Another thread may add a file to a folder while it is emptied. Once the folder is gone, none can.
void remove_for_good(const std::string& path) {
  constexpr int kTries = 100;
  std::error_code failure;
  for (int attempt = 0; attempt < kTries; ++attempt) {
    std::filesystem::remove_all(path, failure);
    if (!failure) return;
  }
}

}  // namespace

Unfinished::Unfinished(std::string path) : path_(std::move(path)) {
  const std::lock_guard lock(registry().mutex);
  registry().paths.insert(path_);
}

Unfinished::Unfinished(Unfinished&& other) noexcept : path_(std::exchange(other.path_, {})) {}

Unfinished& Unfinished::operator=(Unfinished&& other) noexcept {
  if (this == &other) return *this;
  forget();
  path_ = std::exchange(other.path_, {});
  return *this;
}

Unfinished::~Unfinished() { forget(); }

void Unfinished::forget() {
  if (path_.empty()) return;
  const std::lock_guard lock(registry().mutex);
  registry().paths.erase(std::exchange(path_, {}));
}

std::unique_lock<std::recursive_mutex> no_interruption() { return std::unique_lock(registry().mutex); }

ChildProcess::ChildProcess(pid_t id) : id_(id) {
  const std::lock_guard lock(registry().mutex);
  registry().processes.insert(id_);
}

ChildProcess::~ChildProcess() {
  const std::lock_guard lock(registry().mutex);
  registry().processes.erase(id_);
}

void remove_unfinished() {
  registry()
      .mutex.lock();  // and never unlocks: a thread that wants to finish a file waits for the program's end
  for (const pid_t process : registry().processes) kill(process, SIGKILL);
  for (const pid_t process : registry().processes) wait_for_end(process);
  for (const std::string& path : registry().paths) remove_for_good(path);
}

}  // namespace pear::files
