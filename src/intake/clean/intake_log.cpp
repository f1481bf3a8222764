#include "intake/clean/intake_log.hpp"

#include <algorithm>

namespace pear::intake {

void IntakeLog::change(TableKind table, const ChangedCell& cell) {
  const auto same = [&](const CleaningTally& known) {
    return known.table == table && known.column == cell.column && known.step == cell.step;
  };
  auto found = std::find_if(cleaned_.begin(), cleaned_.end(), same);
  if (found == cleaned_.end())
    found = cleaned_.insert(found, {table, cell.column, std::string(cell.step), 0});
  ++found->cells;
  settle(hooks_.change(cell));
}

}  // namespace pear::intake
