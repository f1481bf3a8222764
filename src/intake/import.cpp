#include "intake/import.hpp"

#include <utility>

#include "intake/importing.hpp"
#include "intake/join/nest_lines.hpp"
#include "intake/open_tables.hpp"
#include "intake/read/read_table.hpp"
#include "intake/source_rows.hpp"

namespace pear::intake {
namespace {

/// The small tables first, so that errors in them are reported soon.
const Kinds kReadingOrder = {TableKind::customers, TableKind::products, TableKind::prices, TableKind::orders,
                             TableKind::lines};

/// Reads all tables, and finds the duplicates. Adds to `notes`.
OrError<void> read_and_clean(const IntakePlan& plan, Importing& importing, IntakeLog& log,
                             std::vector<std::string>& notes) {
  PEAR_ASSIGN(OpenTables opened, open_tables(plan));
  for (const TableKind kind : kReadingOrder)
    if (plan.table(kind) != nullptr)
      PEAR_TRY(read_all(*plan.table(kind), std::move(opened[static_cast<std::size_t>(kind)]),
                        table_of(importing.tables, kind), log, notes));
  return importing.clean(kReadingOrder);
}

}  // namespace

OrError<Imported> import_tables(const IntakePlan& plan, const ImportHooks& hooks) {
  IntakeLog log(hooks);
  Importing importing(plan, log);
  std::vector<std::string> notes;
  PEAR_TRY(read_and_clean(plan, importing, log, notes));
  PEAR_TRY(importing.settle(kReadingOrder));
  PEAR_ASSIGN(daybook::LineTable lines, importing.prepare());
  PEAR_TRY(check_any_left(importing.lines_left()));
  Imported imported = importing.take();
  imported.notes.insert(imported.notes.begin(), notes.begin(), notes.end());
  imported.take_tallies(log);
  PEAR_ASSIGN(imported.currency, settle_currency(plan, imported.currencies));
  PEAR_ASSIGN(imported.built, daybook::build_daybook(std::move(lines)));
  describe_built(plan, imported);
  return imported;
}

OrError<std::vector<DuplicateRow>> preview_duplicates(const IntakePlan& plan, const ImportHooks& hooks) {
  IntakeLog log(hooks);
  Importing importing(plan, log);
  std::vector<std::string> notes;
  PEAR_TRY(read_and_clean(plan, importing, log, notes));
  return importing.take().duplicates;
}

}  // namespace pear::intake
