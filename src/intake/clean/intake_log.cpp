#include "intake/clean/intake_log.hpp"

#include <algorithm>
#include <string_view>
#include <tuple>

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

std::vector<CleaningTally> IntakeLog::cleaned() const {
  constexpr std::string_view kSteps[] = {"trim",  "empty_as",  "replace",
                                         "round", "fold_case", "same_customer"};
  const auto place = [&](const CleaningTally& tally) {
    return std::tuple(tally.table, tally.column,
                      std::find(std::begin(kSteps), std::end(kSteps), tally.step) - std::begin(kSteps));
  };
  std::vector<CleaningTally> sorted = cleaned_;
  std::sort(sorted.begin(), sorted.end(),
            [&](const CleaningTally& a, const CleaningTally& b) { return place(a) < place(b); });
  return sorted;
}

std::vector<ExclusionTally> IntakeLog::excluded() const {
  std::vector<ExclusionTally> sorted = excluded_;
  std::sort(sorted.begin(), sorted.end(), [](const ExclusionTally& a, const ExclusionTally& b) {
    return a.rows != b.rows ? a.rows > b.rows : std::tie(a.table, a.reason) < std::tie(b.table, b.reason);
  });
  return sorted;
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
