#include "cli/progress.hpp"

#include <algorithm>
#include <cstdio>

#include <fmt/format.h>
#include <unistd.h>

namespace pear::cli {
namespace {

/// "12 s", "3 min 20 s"
std::string time_text(double seconds) {
  const auto whole = static_cast<std::int64_t>(seconds + 0.5);
  return whole < 60 ? fmt::format("{} s", whole) : fmt::format("{} min {} s", whole / 60, whole % 60);
}

}  // namespace

ProgressBar::ProgressBar(bool wanted) {
  if (wanted && isatty(STDERR_FILENO) != 0) drawer_ = std::thread([this] { draw_until_stopped(); });
}

ProgressBar::~ProgressBar() {
  if (!drawer_.joinable()) return;
  {
    const std::lock_guard lock(mutex_);
    stopped_ = true;
  }
  stopping_.notify_one();
  drawer_.join();
}

void ProgressBar::show(std::uint64_t done, std::uint64_t all, const std::string& stage,
                       const std::string& detail) {
  if (!drawer_.joinable()) return;
  const std::lock_guard lock(mutex_);
  if (stage != stage_) stage_begin_ = Clock::now();
  done_ = done, all_ = all, stage_ = stage, detail_ = detail;
}

void ProgressBar::draw_until_stopped() {
  constexpr std::chrono::milliseconds kPause{100};
  std::unique_lock lock(mutex_);
  if (stopping_.wait_until(lock, begin_ + std::chrono::seconds(1), [&] { return stopped_; })) return;
  do draw();
  while (!stopping_.wait_for(lock, kPause, [&] { return stopped_; }));
  std::fputs("\r\x1b[K", stderr);
}

void ProgressBar::draw() const {
  const double seconds = std::chrono::duration<double>(Clock::now() - stage_begin_).count();
  std::string bar, time = time_text(seconds);
  if (all_ > 0) {
    constexpr std::size_t kWidth = 30;
    const double part = std::min(1.0, static_cast<double>(done_) / static_cast<double>(all_));
    const auto filled = static_cast<std::size_t>(kWidth * part);
    bar = fmt::format("[{}{}] {:>3.0f}%  ", std::string(filled, '='), std::string(kWidth - filled, ' '),
                      100 * part);
    constexpr double kEnough = 0.02;  // of the stage, to estimate the rest
    if (part >= kEnough && part < 1) time = time_text(std::max(1.0, seconds / part * (1 - part))) + " left";
  }
  fmt::print(stderr, "\r{}{}{}, {}\x1b[K", bar, stage_, detail_.empty() ? "" : ": " + detail_, time);
  std::fflush(stderr);
}

}  // namespace pear::cli
