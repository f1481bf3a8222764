#include "cli/terminal.hpp"

#include <cstdio>
#include <cstdlib>

#include <sys/ioctl.h>
#include <unistd.h>

namespace pear::cli {

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

void print(const std::string& text) { std::fwrite(text.data(), 1, text.size(), stdout); }

}  // namespace pear::cli
