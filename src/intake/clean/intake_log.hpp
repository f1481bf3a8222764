// What the steps of an import report while they work.
#pragma once

#include <functional>
#include <string>
#include <utility>

#include "base/error.hpp"
#include "intake/clean/reject_tally.hpp"
#include "intake/read/row_batch.hpp"

namespace pear::intake {

/// How far the reading of a source is: rows and bytes so far, and the total of bytes if known (otherwise 0).
/// In later stages, parts of the work instead of bytes.
struct ImportProgress {
  std::string source;  ///< or the stage
  std::uint64_t rows = 0;
  std::uint64_t bytes = 0;
  std::uint64_t bytes_in_all = 0;
  bool is_later_stage = false;
};

/// A row that was left out on purpose.
struct ExcludedRow {
  std::string source;
  std::uint64_t line = 0;  ///< of the source
  std::string reason;
  std::string row;  ///< the whole row as CSV
};

/// How many rows were left out for one reason, and their amount.
struct ExclusionTally {
  std::string table;
  std::string reason;
  std::uint64_t rows = 0;
  DecimalSum amount;  ///< of lines
  std::string first_source;
  std::uint64_t first_line = 0;
};

struct ImportHooks {
  std::function<OrError<void>(const RejectedRow&)> reject;  ///< each rejected row
  std::function<OrError<void>(const ChangedCell&)> change;  ///< each cell that cleaning changed
  std::function<void(const ImportProgress&)> progress;
  std::function<OrError<void>(const ExcludedRow&)> exclude = {};  ///< each row left out; may be empty
};

/// How many cells of a column one step of cleaning changed.
struct CleaningTally {
  TableKind table = TableKind::lines;
  std::string column;
  std::string step;
  std::uint64_t cells = 0;
};

/// Passes rows and cells to the hooks, and counts them. The first error of a hook is kept.
class IntakeLog {
 public:
  explicit IntakeLog(const ImportHooks& hooks) : hooks_(hooks) {}

  void reject(TableKind table, const RejectedRow& row) {
    rejected_.add(to_text(table), row, order_);
    settle(hooks_.reject(row));
  }
  void change(TableKind table, const ChangedCell& cell);
  /// `amount` in units of Decimal; kEmptyUnits if there is none.
  void exclude(const ExcludedRow& row, const std::string& table, std::int64_t amount);
  /// The same for a row that is counted, but not listed.
  void tally(const ExcludedRow& row, const std::string& table, std::int64_t amount);
  void progress(const ImportProgress& progress) { hooks_.progress(progress); }
  /// From now on rows may come in another order than that of these sources and their lines.
  void set_order(SourceOrder order) { order_ = std::move(order); }

  [[nodiscard]] const OrError<void>& outcome() const { return outcome_; }
  [[nodiscard]] std::vector<RejectReason> reasons() const { return rejected_.reasons(); }
  /// By table, column and step, in the order in which the steps are done.
  [[nodiscard]] std::vector<CleaningTally> cleaned() const;
  /// Most frequent first.
  [[nodiscard]] std::vector<ExclusionTally> excluded() const;

 private:
  void settle(OrError<void> outcome) {
    if (outcome_ && !outcome) outcome_ = std::move(outcome);
  }
  const ImportHooks& hooks_;
  RejectTally rejected_;
  SourceOrder order_;
  std::vector<CleaningTally> cleaned_;
  std::vector<ExclusionTally> excluded_;
  OrError<void> outcome_;
};

}  // namespace pear::intake
