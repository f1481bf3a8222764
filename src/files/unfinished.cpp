#include "files/unfinished.hpp"

#include <csignal>
#include <filesystem>
#include <set>
#include <utility>

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
  std::error_code ignored;
  for (const std::string& path : registry().paths) std::filesystem::remove_all(path, ignored);
}

}  // namespace pear::files
