#include "intake/read/read_table.hpp"

#include <map>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "files/inputs.hpp"
#include "intake/read/currency.hpp"
#include "intake/read/skip_rows.hpp"
#include "intake/read/table_collector.hpp"

namespace pear::intake {
namespace {

/// Receives the converted parts of one source in order, and counts its rows.
class SourceReading {
 public:
  SourceReading(sources::TableReader& reader, const TableColumns& plan, RowReceiver& receiver, IntakeLog& log)
      : reader_(reader), plan_(plan), receiver_(receiver), log_(log), rows_before_(receiver.rows()) {}

  OrError<void> run() {
    PEAR_TRY(reader_.for_each_part(
        [&](sources::CsvRows rows) { return read_rows(std::move(rows), plan_, reader_.delimiter()); },
        [&](RowBatch batch, std::uint64_t first_line) { add(batch, first_line); }));
    PEAR_TRY(log_.outcome());
    PEAR_TRY(std::move(outcome_));
    daybook::SourceRecord& record = account_.record;
    record.name = reader_.name();
    record.table = to_text(plan_.table);
    record.bytes = reader_.bytes_taken();
    record.content_hash = reader_.content_hash();
    record.rows_kept = receiver_.rows() - rows_before_;
    account_.notes = plan_.notes;
    if (record.rows_read == 0) account_.notes.emplace_back("It has a header and no rows.");
    if (skipped_ > 0)
      account_.notes.push_back(
          fmt::format("{} by skip_rows.", counted(skipped_, "row was skipped", "rows were skipped")));
    if (reader_.encoding() && *reader_.encoding() != sources::Encoding::utf8)
      account_.notes.push_back(fmt::format("Read as {}.", sources::to_text(*reader_.encoding())));
    return receiver_.end_source(std::move(account_));
  }

 private:
  void add(const RowBatch& batch, std::uint64_t first_line) {
    if (!log_.outcome() || !outcome_) return;
    outcome_ = receiver_.add(batch, first_line, expected_rows(batch));
    for (std::size_t i = 0; i < batch.columns.size(); ++i) check_currencies(i, batch.columns[i], first_line);
    account_.record.rows_read += batch.rows_read;
    skipped_ += batch.rows_skipped;
    account_.record.rows_rejected += batch.rejected.size();
    account_.sums.read.add(batch.sums.read);
    account_.sums.kept.add(batch.sums.kept);
    account_.sums.rejected.add(batch.sums.rejected);
    account_.sums.unreadable += batch.sums.unreadable;
    for (RejectedRow row : batch.rejected) {
      row.line += first_line;
      row.source = reader_.name();
      log_.reject(plan_.table, row);
    }
    for (ChangedCell cell : batch.changed) {
      cell.line += first_line;
      cell.source = reader_.name();
      log_.change(plan_.table, cell);
    }
    log_.progress({reader_.name(), account_.record.rows_read, reader_.bytes_taken(), reader_.bytes_in_all()});
  }

  /// Amounts in two currencies cannot be added up.
  void check_currencies(std::size_t column, const BatchColumn& batch, std::uint64_t first_line) {
    for (const SeenCurrency& seen : batch.currencies) {
      const auto [first, is_new] = currencies_.try_emplace(column, seen);
      if (is_new) first->second.line += first_line;
      if (is_new || currency_of(first->second.sign) == currency_of(seen.sign) || !outcome_) continue;
      outcome_ = data_error(fmt::format(
          "{}, column {}: {} on line {} and {} on line {} are in two currencies. "
          "Amounts are added up, so a daybook has one: convert them, or export them to separate files.",
          reader_.name(), plan_.columns[column].header, in_quotes(first->second.value), first->second.line,
          in_quotes(seen.value), seen.line + first_line));
    }
  }

  /// The number of rows to expect, estimated from the first batch; a little more, so that no array grows
  /// twice.
  std::size_t expected_rows(const RowBatch& batch) {
    if (expected_rows_) return *expected_rows_;
    const std::size_t bytes = batch.rows->bytes.size() + batch.rows->ends.size();
    const double share =
        bytes == 0 ? 0 : static_cast<double>(batch.lines.size()) / static_cast<double>(bytes);
    expected_rows_ =
        rows_before_ + static_cast<std::size_t>(1.05 * static_cast<double>(reader_.bytes_in_all()) * share);
    return *expected_rows_;
  }

  sources::TableReader& reader_;
  const TableColumns& plan_;
  RowReceiver& receiver_;
  IntakeLog& log_;
  std::size_t rows_before_;
  SourceAccount account_;
  std::uint64_t skipped_ = 0;
  std::map<std::size_t, SeenCurrency> currencies_;  // by column, the first
  OrError<void> outcome_;                           // the first fault
  std::optional<std::size_t> expected_rows_;
};

}  // namespace

OrError<OpenTable> open_table(TableKind kind, const SourcePlan& plan) {
  OpenTable table;
  table.kind = kind;
  std::vector<std::string> empty;  // names of sources without a header
  for (const sources::TableAddress& address : plan.sources) {
    files::protect_input(address.file);
    PEAR_ASSIGN(sources::TableReader reader, sources::TableReader::open(address));
    if (reader.header().empty()) {
      empty.push_back(reader.name());
      continue;
    }
    PEAR_ASSIGN(TableColumns columns, plan_columns(kind, plan, reader.header(), reader.name()));
    PEAR_TRY(check_skip_condition(columns));
    table.readers.push_back(std::move(reader));
    table.only_header.push_back(address.only_header);
    table.plans.push_back(std::move(columns));
  }
  if (table.readers.empty())
    return data_error(fmt::format("{} empty: {} no header and no rows.",
                                  empty.size() == 1 ? empty.front() + " is" : join(empty, ", ") + " are",
                                  empty.size() == 1 ? "it has" : "they have"));
  for (const std::string& name : empty)
    table.notes.push_back(fmt::format("{} is empty and was skipped.", name));
  return table;
}

OrError<void> check_any_kept(TableKind kind, std::size_t kept, const std::vector<SourceAccount>& accounts,
                             const IntakeLog& log) {
  if (kept > 0 || accounts.empty()) return {};
  std::uint64_t rows = 0;
  std::vector<std::string> names;
  for (const SourceAccount& source : accounts) {
    rows += source.record.rows_read;
    names.push_back(source.record.name);
  }
  const std::string sources = join(names, ", ");
  const bool is_list =
      kind == TableKind::products || kind == TableKind::customers || kind == TableKind::prices;
  if (rows == 0 && is_list) return {};
  if (rows == 0) return data_error(fmt::format("{} has a header and no rows.", sources));
  for (const RejectReason& most : log.reasons()) {
    if (most.table != to_text(kind)) continue;
    const bool of_dates = most.reason.find("is not a date") != std::string::npos;
    return data_error(fmt::format(
        "none of the {} of {} can be used. Most frequent: {} {} (first on line {}).{}", counted(rows, "row"),
        sources, most.column.empty() ? "the row" : in_quotes(most.column), most.reason, most.first_line,
        of_dates ? " Set date_format in an intake file; pear-thread inspect detects the format." : ""));
  }
  return {};
}

OrError<void> read_rows_of(OpenTable& table, RowReceiver& receiver, IntakeLog& log) {
  for (std::size_t i = 0; i < table.readers.size(); ++i) {
    PEAR_TRY(receiver.begin_source(table.plans[i], table.readers[i].name()));
    if (table.only_header[i]) continue;
    PEAR_TRY(SourceReading(table.readers[i], table.plans[i], receiver, log).run());
  }
  return {};
}

OrError<RawTable> read_table(OpenTable table, IntakeLog& log) {
  TableCollector collector(table.plans.front());
  PEAR_TRY(read_rows_of(table, collector, log));
  RawTable result = collector.take();
  PEAR_TRY(check_any_kept(result.kind, result.rows(), result.sources, log));
  return result;
}

}  // namespace pear::intake
