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

void IntakeLog::exclude(const ExcludedRow& row, const std::string& table, std::int64_t amount) {
  tally(row, table, amount);
  if (hooks_.exclude) settle(hooks_.exclude(row));
}

void IntakeLog::tally(const ExcludedRow& row, const std::string& table, std::int64_t amount) {
  auto found = std::find_if(excluded_.begin(), excluded_.end(), [&](const ExclusionTally& known) {
    return known.reason == row.reason && known.table == table;
  });
  if (found == excluded_.end())
    found = excluded_.insert(found, {table, row.reason, 0, {}, row.source, row.line});
  ++found->rows;
  if (order_.is_before(table, row.source, row.line, found->first_source, found->first_line)) {
    found->first_source = row.source;
    found->first_line = row.line;
  }
  if (amount != daybook::kEmptyUnits) found->amount.add(Decimal::from_units(amount));
}

}  // namespace pear::intake
