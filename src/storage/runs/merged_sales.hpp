// Sorted runs as one daybook, which is never in memory as a whole.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/error.hpp"
#include "daybook/builder.hpp"
#include "storage/daybook_info.hpp"
#include "storage/runs/sorted_runs.hpp"
#include "storage/sqlite.hpp"

namespace pear::storage {

/// Called with the steps done and their number, or 0 if that is unknown.
using ShowProgress = std::function<void(std::uint64_t, std::uint64_t)>;
inline void ignored_progress(std::uint64_t /*done*/, std::uint64_t /*all*/) {}

/// What the lines of a daybook add up to.
struct SalesTotals {
  std::uint64_t orders = 0;  ///< without those that contain only returns
  std::uint64_t lines = 0;
  std::uint64_t returns = 0;
  std::uint64_t fee_lines = 0;  ///< fees that are not returned
  DecimalSum amount;
  std::optional<DecimalSum> fees;  ///< if the shop marks fees
  Date first_date, last_date;
};

/// The same daybook that build_daybook() makes of all lines together. In memory: customers and products with
/// their columns, and about 10 bytes for each order.
class MergedSales {
 public:
  /// Merges the orders, and finds the level of each column. O(lines) for each column. Errors: io; data, if
  /// there is no line.
  [[nodiscard]] static OrError<MergedSales> make(SortedRuns runs,
                                                 const ShowProgress& progress = ignored_progress);
  MergedSales(MergedSales&&) noexcept;
  MergedSales& operator=(MergedSales&&) noexcept;
  ~MergedSales();

  /// Without order ids and columns of lines and orders (but order_date), as if they had not been loaded; and
  /// what was decided.
  [[nodiscard]] daybook::BuiltDaybook take_built();
  [[nodiscard]] const SalesTotals& totals() const;

  /// Writes everything but the members without lines into a new daybook file; `built` is that of
  /// take_built(). Returns the fingerprint. Errors: io.
  [[nodiscard]] OrError<std::string> write(sqlite::Database& database, const daybook::Daybook& built,
                                           const daybook::Provenance& provenance,
                                           const ShowProgress& progress = ignored_progress) const;

 private:
  class Rep;
  explicit MergedSales(std::unique_ptr<Rep> rep);
  std::unique_ptr<Rep> rep_;
};

}  // namespace pear::storage
