#include "intake/import_report.hpp"

#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/import_tables.hpp"
#include "intake/rejected_share.hpp"

namespace pear::intake {
namespace {

/// Rows and amounts of all sources of lines together.
struct LineTotals {
  std::uint64_t read = 0, kept = 0, duplicate = 0, excluded = 0, rejected = 0, unreadable = 0;
  DecimalSum amount_read, amount_kept, amount_apart;
  std::vector<std::string> names;
};

LineTotals totals_of(const Imported& imported) {
  LineTotals totals;
  for (const SourceAccount& source : imported.sources) {
    if (source.record.table != to_text(TableKind::lines)) continue;
    totals.read += source.record.rows_read;
    totals.kept += source.record.rows_kept;
    totals.duplicate += source.record.rows_duplicate;
    totals.excluded += source.record.rows_excluded;
    totals.rejected += source.record.rows_rejected;
    totals.unreadable += source.sums.unreadable;
    totals.amount_read.add(source.sums.read);
    totals.amount_kept.add(source.sums.kept);
    totals.amount_apart.add(source.sums.rejected);
    totals.amount_apart.add(source.duplicate_amount);
    totals.amount_apart.add(source.excluded_amount);
    totals.names.push_back(source.record.name);
  }
  return totals;
}

std::string headline(const LineTotals& totals) {
  const std::string from =
      totals.names.size() > 3 ? counted(totals.names.size(), "source") : join(totals.names, ", ");
  std::vector<std::string> others;
  if (totals.duplicate > 0)
    others.push_back(counted(totals.duplicate, "row was a duplicate", "rows were duplicates"));
  if (totals.excluded > 0) others.push_back(counted(totals.excluded, "row was", "rows were") + " excluded");
  const std::string rejected = totals.rejected == 0
                                   ? "none were rejected"
                                   : counted(totals.rejected, "row was", "rows were") + " rejected";
  const std::string rest = others.empty() ? rejected : fmt::format("{} and {}", join(others, ", "), rejected);
  return fmt::format("{} of {} read from {} became lines of the daybook; {}.",
                     with_thousands(static_cast<std::int64_t>(totals.kept)), counted(totals.read, "row"),
                     from, rest);
}

/// Findings about the other tables, in one sentence if there are any.
void add_findings(const Imported& imported, std::vector<std::string>& sentences) {
  std::vector<std::string> found;
  for (const JoinCount& join : imported.joins) {
    if (join.unmatched > 0)
      found.push_back(fmt::format("{} without a row in {}", counted(join.unmatched, singular(join.many)),
                                  to_text(join.one)));
  }
  if (!imported.similar_ids.empty())
    found.push_back(fmt::format("{} written in several ways",
                                counted(imported.similar_ids.size(), "customer id is", "customer ids are")));
  if (!imported.shared_names.empty())
    found.push_back(
        fmt::format("{} that several customers share", counted(imported.shared_names.size(), "name")));
  if (!imported.shared_emails.empty())
    found.push_back(
        fmt::format("{} with several customer ids",
                    counted(imported.shared_emails.size(), "e-mail address", "e-mail addresses")));
  if (!found.empty()) sentences.push_back("Worth checking: " + join(found, "; ") + ".");
}

bool every_source_adds_up(const Imported& imported) {
  for (const SourceAccount& source : imported.sources) {
    const daybook::SourceRecord& record = source.record;
    if (record.rows_read !=
        record.rows_kept + record.rows_duplicate + record.rows_excluded + record.rows_rejected)
      return false;
  }
  return true;
}

std::vector<result::Check> checks_of(const Imported& imported, const LineTotals& totals,
                                     const result::Population& population) {
  DecimalSum with_signs =
      totals.amount_kept;  // returns that were turned count twice: taken away, and negative
  with_signs.add(imported.turned_amount);
  with_signs.add(imported.turned_amount);
  DecimalSum accounted = totals.amount_kept;
  accounted.add(totals.amount_apart);
  return {
      {"of every source, rows read = kept + duplicate + excluded + rejected", every_source_adds_up(imported)},
      {"the same for the amounts of lines", accounted == totals.amount_read},
      {"the daybook contains all lines kept", imported.built.daybook.lines() == totals.kept},
      {imported.turned == 0 ? "the daybook's amounts add up to the amounts kept"
                            : "the daybook's amounts add up to the amounts kept, with returns negative",
       population.amount == with_signs.total()}};
}

}  // namespace

result::Result report_import(const Imported& imported, const result::Population& population) {
  const LineTotals totals = totals_of(imported);
  result::Result result;
  result.question = "import";
  result.population = population;
  result.currency = imported.currency;
  if (std::string sentence = left_out(imported); !sentence.empty())
    result.headline.push_back(std::move(sentence));
  result.headline.push_back(headline(totals));
  add_findings(imported, result.headline);
  result.tables = {rows_table(imported.sources),
                   amounts_table(imported.sources),
                   reasons_table(imported.reasons),
                   exclusions_table(imported.excluded),
                   joins_table(imported.joins),
                   cleaning_table(imported.cleaned),
                   duplicates_table(imported.duplicates),
                   unmatched_table(imported.unmatched),
                   changed_customers_table(imported.changed_customers),
                   shared_table(imported),
                   ungrouped_table(imported.ungrouped)};
  result.notes = imported.notes;
  if (totals.unreadable > 0)
    result.notes.push_back(fmt::format("The amount of {} could not be read; the sums do not include {}.",
                                       counted(totals.unreadable, "rejected row"),
                                       totals.unreadable == 1 ? "it" : "them"));
  result.checks = checks_of(imported, totals, population);
  return result;
}

result::Result report_duplicates(const std::vector<DuplicateRow>& duplicates) {
  result::Result result;
  result.question = "duplicates";
  std::uint64_t dropped = 0;
  for (const DuplicateRow& row : duplicates) dropped += row.rank > 1 ? 1 : 0;
  result.headline = {duplicates.empty()
                         ? "No duplicates were found."
                         : fmt::format("{} of duplicates: {} would be dropped, {} would be kept.",
                                       counted(duplicates.back().group, "group"), counted(dropped, "row"),
                                       duplicates.back().group)};
  result.tables = {duplicates_table(duplicates)};
  result.tables.back().part = "";
  return result;
}

std::vector<daybook::CleaningCount> cleaning_counts(const Imported& imported) {
  std::vector<daybook::CleaningCount> counts;
  for (const RejectReason& reason : imported.reasons)
    counts.push_back({fmt::format("{} rejected: {} {}", reason.table,
                                  reason.column.empty() ? "row" : reason.column, reason.reason),
                      reason.rows});
  for (const CleaningTally& tally : imported.cleaned)
    counts.push_back(
        {fmt::format("{}: {} of {}", to_text(tally.table), tally.step, tally.column), tally.cells});
  for (const ExclusionTally& tally : imported.excluded)
    counts.push_back({fmt::format("{} excluded: {}", tally.table, tally.reason), tally.rows});
  for (const SourceAccount& source : imported.sources) {
    if (source.record.rows_duplicate > 0)
      counts.push_back({fmt::format("duplicates in {}", source.record.name), source.record.rows_duplicate});
  }
  if (imported.turned > 0)
    counts.push_back({"returns with a positive amount, now negative", imported.turned});
  if (imported.built.orders_with_two_dates > 0)
    counts.push_back({"orders with lines of different dates", imported.built.orders_with_two_dates});
  if (imported.built.shared_order_ids > 0)
    counts.push_back({"order ids shared by customers", imported.built.shared_order_ids});
  return counts;
}

}  // namespace pear::intake
