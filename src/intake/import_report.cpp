#include "intake/import_report.hpp"

#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear {
namespace {

std::int64_t units(const DecimalSum& sum) {
  const auto total = sum.total();
  return total ? total->units() : kEmptyCell;
}

Table reconciliation(const Imported& imported) {
  Table table{"reconciliation", "Rows and amounts", "What was read, and what became of it.", {}};
  TextArray parts;
  for (const char* part : {"rows read", "= lines kept", "+ rows rejected"}) parts.push_back(part);
  const SourceRecord& source = imported.source;
  const auto count = [](std::uint64_t value) { return static_cast<std::int64_t>(value); };
  table.columns.push_back(text_column("part", "What the row counts.", std::move(parts)));
  table.columns.push_back(
      integer_column("rows", Unit::count, "Rows of the source.",
                     {count(source.rows_read), count(source.lines_kept), count(source.rows_rejected)}));
  table.columns.push_back(
      integer_column("amount", Unit::money, "Their amounts, where they could be read.",
                     {units(imported.sums.read), units(imported.sums.kept), units(imported.sums.rejected)}));
  return table;
}

Table reasons(const Imported& imported) {
  TextArray columns, texts;
  std::vector<std::int64_t> rows, lines;
  for (const RejectReason& reason : imported.reasons) {
    columns.push_back(reason.column.empty() ? "(whole row)" : reason.column);
    texts.push_back(reason.reason);
    rows.push_back(static_cast<std::int64_t>(reason.rows));
    lines.push_back(static_cast<std::int64_t>(reason.first_line));
  }
  Table table{"reasons", "Why rows were rejected", "One row for each column and reason.", {}};
  table.columns.push_back(text_column("column", "The column at fault.", std::move(columns)));
  table.columns.push_back(text_column("reason", "What is wrong with its value.", std::move(texts)));
  table.columns.push_back(integer_column("rows", Unit::count, "Rows rejected for it.", std::move(rows)));
  table.columns.push_back(
      integer_column("first_line", Unit::count, "Line of the file of the first such row.", std::move(lines)));
  return table;
}

}  // namespace

Result report_import(const Imported& imported, const Population& population) {
  const SourceRecord& source = imported.source;
  Result result;
  result.question = "import";
  result.population = population;
  result.headline = {fmt::format(
      "{} of {} read from {} became lines of the daybook; {} rejected.",
      with_thousands(static_cast<std::int64_t>(source.lines_kept)), counted(source.rows_read, "row"),
      source.name,
      source.rows_rejected == 0 ? "none were" : counted(source.rows_rejected, "row was", "rows were"))};
  result.tables.push_back(reconciliation(imported));
  if (!imported.reasons.empty()) result.tables.push_back(reasons(imported));
  result.notes = imported.notes;
  if (imported.sums.unreadable > 0)
    result.notes.push_back(fmt::format("The amount of {} could not be read; the sums leave {} out.",
                                       counted(imported.sums.unreadable, "rejected row"),
                                       imported.sums.unreadable == 1 ? "it" : "them"));
  DecimalSum in_daybook;
  for (const std::int64_t amount : imported.built.daybook.amounts())
    in_daybook.add(Decimal::from_units(amount));
  DecimalSum accounted = imported.sums.kept;
  accounted.add(imported.sums.rejected);
  result.checks = {{"rows read = lines kept + rows rejected",
                    source.rows_read == source.lines_kept + source.rows_rejected},
                   {"amounts read = amounts kept + amounts rejected", accounted == imported.sums.read},
                   {"the daybook holds all lines kept", imported.built.daybook.lines() == source.lines_kept},
                   {"the daybook's amounts add up to the amounts kept", in_daybook == imported.sums.kept}};
  return result;
}

std::vector<CleaningCount> cleaning_counts(const Imported& imported) {
  std::vector<CleaningCount> counts;
  for (const RejectReason& reason : imported.reasons)
    counts.push_back(
        {fmt::format("rejected: {} {}", reason.column.empty() ? "row" : reason.column, reason.reason),
         reason.rows});
  if (imported.built.orders_with_two_dates > 0)
    counts.push_back({"orders with lines of different dates", imported.built.orders_with_two_dates});
  if (imported.built.shared_order_ids > 0)
    counts.push_back({"order ids shared by customers", imported.built.shared_order_ids});
  return counts;
}

}  // namespace pear
