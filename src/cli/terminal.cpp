#include "cli/terminal.hpp"

#include <cerrno>
#include <charconv>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <optional>
#include <string_view>

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

namespace pear::cli {
namespace {

int first_failure = 0;  ///< of writing to standard output: the system's number, or 0

/// COLUMNS, if it is a number of at least so many.
std::optional<std::size_t> width_of_environment(std::size_t narrowest) {
  const char* columns = std::getenv("COLUMNS");
  if (columns == nullptr) return std::nullopt;
  std::size_t width = 0;
  const std::string_view text(columns);
  const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), width);
  const bool is_width = fault == std::errc() && end == text.data() + text.size() && width >= narrowest;
  return is_width ? std::optional(width) : std::nullopt;
}

}  // namespace

output::TerminalStyle terminal_style() {
  constexpr std::size_t kPlainWidth = 100;
  constexpr std::size_t kNarrowest = 40;
  output::TerminalStyle style;
  style.width = kPlainWidth;
  const bool is_terminal = isatty(STDOUT_FILENO) != 0;
  if (const auto columns = width_of_environment(kNarrowest)) {
    style.width = *columns;
    if (!is_terminal) return style;
  }
  style.wide_tables = !is_terminal;
  if (!is_terminal) return style;
  winsize size{};
  if (!width_of_environment(kNarrowest) && ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 &&
      size.ws_col >= kNarrowest)
    style.width = size.ws_col;
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
