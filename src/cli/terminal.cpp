#include "cli/terminal.hpp"

#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

namespace pear::cli {
namespace {

int first_failure = 0;  ///< of writing to standard output: the system's number, or 0

}  // namespace

output::TerminalStyle terminal_style() {
  constexpr std::size_t kPlainWidth = 100;
  constexpr std::size_t kNarrowest = 40;
  output::TerminalStyle style;
  style.width = kPlainWidth;
  if (isatty(STDOUT_FILENO) == 0) return style;
  winsize size{};
  if (ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col >= kNarrowest) style.width = size.ws_col;
  const char* no_color = std::getenv("NO_COLOR");
  style.emphasis = no_color == nullptr || *no_color == '\0';
  return style;
}

void print(const std::string& text) {
  const bool is_written =
      std::fwrite(text.data(), 1, text.size(), stdout) == text.size() && std::fflush(stdout) == 0;
  if (!is_written && first_failure == 0) first_failure = errno;
}

OrError<void> finish_output() {
  if (first_failure == 0) return {};
  if (first_failure == EPIPE) {
    constexpr int kExit = 128 + SIGPIPE;
    std::fputs("pear-thread: stopped: the reader of standard output has ended. All files are written.\n",
               stderr);
    std::exit(kExit);
  }
  return io_error(fmt::format("cannot write to standard output: {}.", std::strerror(first_failure)));
}

}  // namespace pear::cli
