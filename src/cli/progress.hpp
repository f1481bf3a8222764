// A progress bar on standard error.
#pragma once

#include <chrono>
#include <cstdint>
#include <string>

namespace pear::cli {

/// Shown only on a terminal and only for work that takes over a second; redrawn at most ten times a second.
class ProgressBar {
 public:
  explicit ProgressBar(bool wanted);
  ~ProgressBar();  ///< clears the bar
  ProgressBar(const ProgressBar&) = delete;
  ProgressBar& operator=(const ProgressBar&) = delete;

  /// `done` of `all` (0 if unknown), and the text next to the bar.
  void show(std::uint64_t done, std::uint64_t all, const std::string& text);

 private:
  using Clock = std::chrono::steady_clock;
  bool wanted_;
  bool drawn_ = false;
  Clock::time_point begin_ = Clock::now();
  Clock::time_point last_ = begin_;
};

}  // namespace pear::cli
