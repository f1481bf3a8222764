#include "intake/clean/leave_out_rows.hpp"

#include <algorithm>

namespace pear::intake {
namespace {

/// Calls leave_out(row, its source, its amount) for each row whose flag is 0, and drops these rows. The
/// amount is null if there is none.
template <class LeaveOut>
void leave_out_rows(RawTable& table, const std::vector<std::uint8_t>& stays, LeaveOut leave_out) {
  if (std::find(stays.begin(), stays.end(), 0) == stays.end()) return;
  const RawColumn* amounts = table.kind == TableKind::lines ? table.find(daybook::role::kAmount) : nullptr;
  for (std::size_t row = 0; row < table.rows(); ++row) {
    if (stays[row] != 0) continue;
    SourceAccount& account = table.sources[table.source_of(row)];
    --account.record.rows_kept;
    const std::int64_t amount = amounts == nullptr
                                    ? daybook::kEmptyUnits
                                    : std::get<daybook::DecimalValues>(amounts->values).units[row];
    leave_out(row, account, amount);
  }
  table.keep(stays);
}

}  // namespace

void reject_rows(RawTable& table, const std::vector<std::uint8_t>& stays, const std::string& column,
                 const std::string& reason, IntakeLog& log) {
  const RawColumn* at_fault = table.find(column);
  leave_out_rows(table, stays, [&](std::size_t row, SourceAccount& account, std::int64_t amount) {
    ++account.record.rows_rejected;
    if (amount != daybook::kEmptyUnits)
      account.sums.rejected.add(Decimal::from_units(amount));
    else if (table.kind == TableKind::lines)
      ++account.sums.unreadable;
    log.reject(table.kind,
               {account.record.name, table.lines[row], at_fault == nullptr ? "" : at_fault->header,
                at_fault == nullptr ? "" : daybook::value_text(at_fault->values, row), reason, reason,
                table.record(row)});
  });
}

void exclude_rows(RawTable& table, const std::vector<std::uint8_t>& stays, const std::string& reason,
                  IntakeLog& log) {
  leave_out_rows(table, stays, [&](std::size_t row, SourceAccount& account, std::int64_t amount) {
    ++account.record.rows_excluded;
    if (amount != daybook::kEmptyUnits) account.excluded_amount.add(Decimal::from_units(amount));
    log.exclude({account.record.name, table.lines[row], reason, table.record(row)},
                std::string(to_text(table.kind)), amount);
  });
}

void tally_out_rows(RawTable& table, const std::vector<std::uint8_t>& stays, const std::string& reason,
                    IntakeLog& log) {
  const std::string kind(to_text(table.kind));
  leave_out_rows(table, stays, [&](std::size_t row, SourceAccount& account, std::int64_t amount) {
    ++account.record.rows_excluded;
    if (amount != daybook::kEmptyUnits) account.excluded_amount.add(Decimal::from_units(amount));
    log.tally({account.record.name, table.lines[row], reason, {}}, kind, amount);
  });
}

}  // namespace pear::intake
