// Sales lines that do not fit into memory: sorted runs on disk.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "base/dictionary.hpp"
#include "base/error.hpp"
#include "daybook/line_table.hpp"
#include "storage/runs/page_file.hpp"

namespace pear::storage {

/// Lines in the order of a daybook, on disk. The codes of products and texts are those of all runs together.
struct SortedRun {
  explicit SortedRun(PageFile pages) : file(std::move(pages)) {}
  PageFile file;
  ArrayPages customer_ids, orders_per_customer;
  ArrayPages order_ids, order_days, order_seconds, lines_per_order;  ///< no seconds if no line has a time
  ArrayPages line_products, is_return;
  std::vector<ArrayPages> columns;  ///< of the lines, as in SortedRuns
  std::uint64_t customers = 0;
};

/// A column of all runs. The values of a text column are positions in `texts`.
struct RunColumn {
  std::string name;
  std::vector<daybook::Level> levels;  ///< see CandidateColumn
  bool forced = false;
  daybook::ColumnType type = daybook::ColumnType::text;
  std::unique_ptr<Dictionary> texts;
};

/// Takes the lines of a shop part by part, each with whole orders, sorts them and keeps them in a folder, so
/// that memory is needed only for one part, the products, and the distinct texts of columns.
class SortedRuns {
 public:
  /// The folder must exist; its owner removes it.
  explicit SortedRuns(std::string folder) : folder_(std::move(folder)) {}

  /// All parts have the same columns. Errors: io; data, for more lines than a daybook can hold.
  [[nodiscard]] OrError<void> add(daybook::LineTable part);

  // For merging.
  std::vector<SortedRun> runs;
  std::vector<RunColumn> columns;
  std::unique_ptr<Dictionary> product_ids = std::make_unique<Dictionary>();
  std::uint64_t lines = 0;
  std::uint64_t orders_with_two_dates = 0;
  std::uint64_t shared_order_ids = 0;

 private:
  [[nodiscard]] OrError<void> add_column(daybook::CandidateColumn& candidate,
                                         const std::vector<std::uint32_t>& line_positions, SortedRun& run,
                                         std::size_t position);
  std::string folder_;
};

}  // namespace pear::storage
