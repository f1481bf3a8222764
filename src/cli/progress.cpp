#include "cli/progress.hpp"

#include <algorithm>
#include <cstdio>

#include <fmt/format.h>
#include <unistd.h>

namespace pear::cli {

ProgressBar::ProgressBar(bool wanted) : wanted_(wanted && isatty(STDERR_FILENO) != 0) {}

ProgressBar::~ProgressBar() {
  if (drawn_) std::fputs("\r\x1b[K", stderr);
}

void ProgressBar::show(std::uint64_t done, std::uint64_t all, const std::string& text) {
  if (!wanted_) return;
  const auto now = Clock::now();
  if (now - begin_ < std::chrono::seconds(1) || now - last_ < std::chrono::milliseconds(100)) return;
  last_ = now;
  drawn_ = true;
  constexpr std::size_t kWidth = 30;
  std::string bar;
  if (all > 0) {
    const std::size_t filled = std::min<std::size_t>(kWidth, kWidth * done / all);
    bar = fmt::format("[{}{}] {:>3}%  ", std::string(filled, '='), std::string(kWidth - filled, ' '),
                      std::min<std::uint64_t>(100, 100 * done / all));
  }
  fmt::print(stderr, "\r{}{}\x1b[K", bar, text);
  std::fflush(stderr);
}

}  // namespace pear::cli
