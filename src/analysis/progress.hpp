// The progress of long work, reported to its display.
#pragma once

#include <cstdint>
#include <functional>
#include <mutex>

namespace pear::analysis {

/// Called during long work with the fraction done. May be called from any thread, but only by one at a time.
using Progress = std::function<void(std::uint64_t done, std::uint64_t all)>;

/// For one part of the work, which takes the whole from `begin` to `end`, in hundredths.
[[nodiscard]] inline Progress part_of(const Progress& whole, std::uint64_t begin, std::uint64_t end) {
  if (!whole) return {};
  return [whole, begin, end](std::uint64_t done, std::uint64_t all) {
    whole(begin * all + (end - begin) * done, 100 * all);
  };
}

/// Counts the parts of work that several threads finish, and reports them one at a time.
class ParallelProgress {
 public:
  ParallelProgress(const Progress& progress, std::uint64_t all) : progress_(progress), all_(all) {}
  void advance(std::uint64_t parts = 1) {
    if (!progress_) return;
    const std::lock_guard lock(mutex_);
    done_ += parts;
    progress_(done_, all_);
  }

 private:
  const Progress& progress_;
  std::uint64_t all_, done_ = 0;
  std::mutex mutex_;
};

}  // namespace pear::analysis
