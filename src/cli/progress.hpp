// A progress bar on standard error.
#pragma once

#include <chrono>
#include <condition_variable>
#include <cstdint>
#include <mutex>
#include <string>
#include <thread>

namespace pear::cli {

/// Shown only on a terminal and only for work that takes over a second: the stage, how much of it is done if
/// that is known, and the time left or else the time it has taken. Several threads may call show().
class ProgressBar {
 public:
  explicit ProgressBar(bool wanted);
  ~ProgressBar();  ///< clears the bar
  ProgressBar(const ProgressBar&) = delete;
  ProgressBar& operator=(const ProgressBar&) = delete;

  /// `done` of `all` (0 if unknown) of a stage, and what to show next to it.
  void show(std::uint64_t done, std::uint64_t all, const std::string& stage, const std::string& detail = "");

 private:
  using Clock = std::chrono::steady_clock;
  void draw_until_stopped();
  void draw() const;

  Clock::time_point begin_ = Clock::now();
  std::mutex mutex_;  ///< for all below
  std::condition_variable stopping_;
  bool stopped_ = false;
  std::uint64_t done_ = 0, all_ = 0;
  std::string stage_, detail_;
  Clock::time_point stage_begin_ = begin_;
  std::thread drawer_;  ///< redraws in stages that report nothing, too; none if not wanted
};

}  // namespace pear::cli
