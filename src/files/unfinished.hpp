// Files and processes that exist only while the program works.
#pragma once

#include <mutex>
#include <string>

#include <sys/types.h>

namespace pear::files {

/// A hidden file or a scratch folder that must not outlive the program: a signal removes it.
class Unfinished {
 public:
  Unfinished() = default;
  explicit Unfinished(std::string path);
  Unfinished(Unfinished&& other) noexcept;
  Unfinished& operator=(Unfinished&& other) noexcept;
  ~Unfinished();
  /// Forgets the path, which is finished or removed.
  void forget();

 private:
  std::string path_;
};

/// While it lives, a signal does not end the program: for files that are renamed together.
[[nodiscard]] std::unique_lock<std::recursive_mutex> no_interruption();

/// A process that is ended with the program.
class ChildProcess {
 public:
  explicit ChildProcess(pid_t id);
  ~ChildProcess();
  ChildProcess(const ChildProcess&) = delete;
  ChildProcess& operator=(const ChildProcess&) = delete;

 private:
  pid_t id_;
};

/// Ends all child processes and removes all unfinished files. Afterwards the program must end: nothing may be
/// finished any more.
void remove_unfinished();

}  // namespace pear::files
