#include "daybook/columns/level_choice.hpp"

namespace pear::daybook {

bool LevelChoice::accepts(Level level, std::uint64_t members, std::uint64_t differing) {
  if (differing > most_differing(members)) return false;
  if (differing > 0 && !forced_) {
    near_misses_.push_back(
        {column_, level, Level::line, 1 - static_cast<double>(differing) / static_cast<double>(members)});
    return false;
  }
  settled_ = differing;
  return true;
}

void LevelChoice::record(Level chosen, BuiltDaybook& built) const {
  if (settled_ > 0) built.settled.push_back({column_, chosen, settled_});
  for (NearMiss miss : near_misses_) {
    miss.kept_at = chosen;
    built.near_misses.push_back(std::move(miss));
  }
}

}  // namespace pear::daybook
