#include "intake/import.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/line_collector.hpp"
#include "sources/csv_reader.hpp"

namespace pear {
namespace {

/// Takes the converted parts of the file in order, and keeps the account of its rows.
class Account {
 public:
  Account(const CsvReader& reader, const HeaderMap& map, const ImportHooks& hooks)
      : reader_(reader), hooks_(hooks), collector_(map) {}

  void add(const LineBatch& batch, std::uint64_t first_line) {
    if (!outcome_) return;
    collector_.add(batch, expected_lines(batch));
    record_.rows_read += batch.rows_read;
    record_.rows_rejected += batch.rejected.size();
    sums_.read.add(batch.sums.read);
    sums_.kept.add(batch.sums.kept);
    sums_.rejected.add(batch.sums.rejected);
    sums_.unreadable += batch.sums.unreadable;
    for (RejectedRow row : batch.rejected) {
      row.line += first_line;
      count(row);
      if (auto written = hooks_.reject(row); !written) outcome_ = written;
    }
    hooks_.progress(
        {record_.rows_read, reader_.source().bytes_taken(), reader_.source().bytes_in_all().value_or(0)});
  }

  OrError<Imported> finish() {
    PEAR_TRY(outcome_);
    const ByteSource& source = reader_.source();
    record_.name = source.name();
    record_.bytes = source.bytes_taken();
    record_.content_hash = source.content_hash();
    record_.lines_kept = collector_.lines();
    std::stable_sort(reasons_.begin(), reasons_.end(),
                     [](const RejectReason& a, const RejectReason& b) { return a.rows > b.rows; });
    PEAR_TRY(check_any_kept());
    Imported imported;
    PEAR_ASSIGN(imported.built, build_daybook(collector_.take()));
    imported.source = std::move(record_);
    imported.sums = sums_;
    imported.reasons = std::move(reasons_);
    return imported;
  }

 private:
  /// From the first batch, how many lines the file will have; a little more, so that no array grows twice.
  std::size_t expected_lines(const LineBatch& batch) {
    if (expected_lines_) return *expected_lines_;
    const std::size_t bytes = batch.rows->bytes.size() + batch.rows->ends.size();
    const std::uint64_t all = reader_.source().bytes_in_all().value_or(0);
    expected_lines_ = bytes == 0 ? 0
                                 : static_cast<std::size_t>(1.05 * static_cast<double>(all) *
                                                            static_cast<double>(batch.days.size()) /
                                                            static_cast<double>(bytes));
    return *expected_lines_;
  }

  void count(const RejectedRow& row) {
    const auto same = [&](const RejectReason& known) {
      return known.column == row.column && known.reason == row.kind;
    };
    auto found = std::find_if(reasons_.begin(), reasons_.end(), same);
    if (found == reasons_.end()) found = reasons_.insert(found, {row.column, row.kind, 0, row.line});
    ++found->rows;
  }

  [[nodiscard]] OrError<void> check_any_kept() const {
    if (record_.lines_kept > 0) return {};
    if (record_.rows_read == 0) return data_error(fmt::format("{} has a header and no rows.", record_.name));
    const RejectReason& most = reasons_.front();
    return data_error(
        fmt::format("none of the {} of {} can be used. Most frequent: {} {} (first on line {}).",
                    counted(record_.rows_read, "row"), record_.name,
                    most.column.empty() ? "the row" : in_quotes(most.column), most.reason, most.first_line));
  }

  const CsvReader& reader_;
  const ImportHooks& hooks_;
  LineCollector collector_;
  std::optional<std::size_t> expected_lines_;
  SourceRecord record_;
  AmountSums sums_;
  std::vector<RejectReason> reasons_;
  OrError<void> outcome_;
};

}  // namespace

OrError<Imported> import_lines(std::unique_ptr<ByteSource> source,
                               const std::vector<RoleAssignment>& assignments, const ImportHooks& hooks) {
  PEAR_ASSIGN(CsvReader reader, CsvReader::open(std::move(source)));
  PEAR_ASSIGN(HeaderMap map, map_header(reader.header(), assignments, reader.source().name()));
  Account account(reader, map, hooks);
  PEAR_TRY(reader.for_each_part(
      [&](CsvRows rows) { return read_lines(std::move(rows), map, reader.header(), reader.delimiter()); },
      [&](LineBatch batch, std::uint64_t first_line) { account.add(batch, first_line); }));
  PEAR_ASSIGN(Imported imported, account.finish());
  imported.notes = std::move(map.notes);
  const auto note = [&](std::uint64_t count, std::string_view text) {
    if (count > 0) imported.notes.push_back(fmt::format("{} {}", counted(count, "order"), text));
  };
  note(imported.built.orders_with_two_dates,
       "with lines of different dates; the earliest counts for the whole order.");
  note(imported.built.shared_order_ids,
       "under an id that another customer has too; each customer's lines are an order of their own.");
  return imported;
}

}  // namespace pear
