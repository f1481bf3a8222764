#include "cli/signals.hpp"

#include <csignal>
#include <pthread.h>
#include <string>
#include <system_error>
#include <thread>

#include <fmt/format.h>
#include <unistd.h>

#include "files/unfinished.hpp"

namespace pear::cli {
namespace {

constexpr int kFirstSignalExit = 128;  ///< a shell's convention: 130 after INT

void wait_and_end(sigset_t signals) {
  int signal = 0;
  if (sigwait(&signals, &signal) != 0) return;
  const std::string message =
      fmt::format("{}pear-thread: stopped by {}. Unfinished files are removed; all others are complete.\n",
                  isatty(STDERR_FILENO) != 0 ? "\n" : "",  // below "^C" and a progress bar
                  signal == SIGINT    ? "an interrupt"
                  : signal == SIGTERM ? "a termination signal"
                                      : "the end of the terminal");
  files::remove_unfinished();
  [[maybe_unused]] const ssize_t written = ::write(STDERR_FILENO, message.data(), message.size());
  _exit(kFirstSignalExit + signal);  // without destructors: other threads are still working
}

bool is_ignored(int signal) {
  struct sigaction action {};
  return sigaction(signal, nullptr, &action) == 0 && action.sa_handler == SIG_IGN;
}

}  // namespace

void watch_signals() {
  std::signal(SIGPIPE, SIG_IGN);
  std::signal(SIGXFSZ, SIG_IGN);
  sigset_t signals;
  sigemptyset(&signals);
  for (const int signal : {SIGINT, SIGTERM, SIGHUP})
    if (!is_ignored(signal)) sigaddset(&signals, signal);
  pthread_sigmask(SIG_BLOCK, &signals, nullptr);
  try {
    std::thread(wait_and_end, signals).detach();
  } catch (const std::system_error&) {  // too many threads: the signals end the program as they usually do
    pthread_sigmask(SIG_UNBLOCK, &signals, nullptr);
  }
}

}  // namespace pear::cli
