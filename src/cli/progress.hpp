// A progress bar on standard error.
#pragma once

#include <chrono>
#include <cstdint>
#include <string>

namespace pear::cli {

/// Shows only on a terminal and only on work that takes over a second; redrawn ten times a second at most.
class ProgressBar {
 public:
  explicit ProgressBar(bool wanted);
  ~ProgressBar();  ///< clears the bar
  ProgressBar(const ProgressBar&) = delete;
  ProgressBar& operator=(const ProgressBar&) = delete;

  /// `done` of `all` (0 where unknown), and what to say beside the bar.
  void show(std::uint64_t done, std::uint64_t all, const std::string& text);

 private:
  using Clock = std::chrono::steady_clock;
  bool wanted_;
  bool drawn_ = false;
  Clock::time_point begin_ = Clock::now();
  Clock::time_point last_ = begin_;
};

}  // namespace pear::cli
