// The first rows of a source, to see how its columns depend on one another.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

#include "intake/inspect/profile.hpp"

namespace pear::intake {

/// The columns as codes of their values, without white space at the ends.
class SampleColumns {
 public:
  explicit SampleColumns(const SourceProfile& source);

  [[nodiscard]] std::size_t rows() const { return rows_; }
  [[nodiscard]] std::size_t distinct(std::size_t column) const { return distinct_[column]; }
  [[nodiscard]] std::size_t filled(std::size_t column) const;
  [[nodiscard]] bool repeats(std::size_t column) const { return distinct_[column] < filled(column); }
  /// Of the values of `key` that occur several times, the share that always occur with one value of `other`;
  /// 1 if none does. O(rows).
  [[nodiscard]] double determines(std::size_t key, std::size_t other) const;

 private:
  std::size_t rows_;
  std::vector<std::vector<std::uint32_t>> codes_;  // by column and row; kEmptyCode if empty
  std::vector<std::size_t> distinct_;
};

}  // namespace pear::intake
