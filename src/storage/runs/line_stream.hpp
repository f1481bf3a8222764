// The lines of all sorted runs, order by order, in the order of the daybook.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "daybook/daybook.hpp"
#include "storage/runs/array_pages.hpp"
#include "storage/runs/sorted_runs.hpp"

namespace pear::storage {

/// The runs in the order of the daybook.
struct MergedLines {
  const std::vector<SortedRun>& runs;
  const std::vector<std::uint16_t>& run_of_order;
  const std::vector<std::uint32_t>& product_ranks;  ///< by the code of a product in the runs
  const daybook::DaybookParts& parts;               ///< customers, offsets, and order_date

  [[nodiscard]] std::uint32_t customers() const {
    return static_cast<std::uint32_t>(parts.order_offsets.size() - 1);
  }
  [[nodiscard]] std::uint32_t orders() const { return static_cast<std::uint32_t>(run_of_order.size()); }
  [[nodiscard]] std::uint32_t products() const { return static_cast<std::uint32_t>(product_ranks.size()); }
};

/// One array of lines. Borrows everything that `lines` does.
template <class T>
class LineStream {
 public:
  /// pages_of(run): the pages of the array in a run.
  template <class PagesOf>
  LineStream(const MergedLines& lines, PagesOf pages_of)
      : run_of_order_(&lines.run_of_order), line_offsets_(&lines.parts.line_offsets) {
    for (const SortedRun& run : lines.runs) cursors_.emplace_back(run.file, pages_of(run));
  }

  /// The values of the lines of the next order, valid until the next call.
  [[nodiscard]] OrError<std::span<const T>> next_order() {
    const std::uint32_t order = order_++;
    return cursors_[(*run_of_order_)[order]].next((*line_offsets_)[order + 1] - (*line_offsets_)[order]);
  }

 private:
  const std::vector<std::uint16_t>* run_of_order_;
  const std::vector<std::uint32_t>* line_offsets_;
  std::vector<ArrayCursor<T>> cursors_;
  std::uint32_t order_ = 0;
};

/// A column of lines. The codes of texts of all runs are replaced by what each means in the daybook.
template <class T>
class ColumnStream {
 public:
  explicit ColumnStream(LineStream<T> values) : values_(std::move(values)) {}
  ColumnStream(LineStream<std::uint32_t> codes, const std::vector<T>& value_of_code)
      : codes_(std::move(codes)), value_of_code_(&value_of_code) {}

  [[nodiscard]] OrError<std::span<const T>> next_order() {
    if (values_) return values_->next_order();
    PEAR_ASSIGN(const std::span<const std::uint32_t> codes, codes_->next_order());
    translated_.clear();
    for (const std::uint32_t code : codes)
      translated_.push_back(code == daybook::kEmptyCode ? kEmptyOf<T> : (*value_of_code_)[code]);
    return std::span<const T>(translated_);
  }

 private:
  std::optional<LineStream<T>> values_;
  std::optional<LineStream<std::uint32_t>> codes_;
  const std::vector<T>* value_of_code_ = nullptr;
  std::vector<T> translated_;
};

[[nodiscard]] inline ColumnStream<std::uint32_t> line_products(const MergedLines& lines) {
  return {LineStream<std::uint32_t>(
              lines, [](const SortedRun& run) -> auto& { return run.line_products; }),
          lines.product_ranks};
}

}  // namespace pear::storage
