// Times for --verbose.
#pragma once

#include <chrono>
#include <string_view>

#include <spdlog/spdlog.h>

namespace pear::cli {

/// Logs the time since the last lap as a debug message.
class Stopwatch {
 public:
  void lap(std::string_view what) {
    const auto now = Clock::now();
    spdlog::debug("{} in {:.3f} s", what, std::chrono::duration<double>(now - last_).count());
    last_ = now;
  }

 private:
  using Clock = std::chrono::steady_clock;
  Clock::time_point last_ = Clock::now();
};

}  // namespace pear::cli
