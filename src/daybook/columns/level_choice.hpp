// Chooses the level of a column.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "daybook/builder.hpp"

namespace pear::daybook {

/// Tries the candidate levels of a column, most preferred first, and notes what was decided.
class LevelChoice {
 public:
  /// `forced`: the column goes to its level whether it is constant there or not.
  LevelChoice(std::string column, bool forced) : column_(std::move(column)), forced_(forced) {}

  /// With more members than this that have several values, a level is out of the question; counting may end.
  [[nodiscard]] std::uint64_t most_differing(std::uint64_t members) const {
    return forced_ ? members : members / 100;
  }
  /// Whether the column belongs to this level, of whose members `differing` have several values.
  [[nodiscard]] bool accepts(Level level, std::uint64_t members, std::uint64_t differing);
  /// Adds the near misses to `built`, and the values that a forced level dropped.
  void record(Level chosen, BuiltDaybook& built) const;

 private:
  std::string column_;
  bool forced_;
  std::vector<NearMiss> near_misses_;
  std::uint64_t settled_ = 0;
};

}  // namespace pear::daybook
