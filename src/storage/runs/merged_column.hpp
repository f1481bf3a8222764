// A column of the merged runs: its type and its level.
#pragma once

#include <cstdint>
#include <string>
#include <tuple>
#include <vector>

#include "base/text_array.hpp"
#include "daybook/builder.hpp"
#include "storage/runs/line_stream.hpp"

namespace pear::storage {

class MergedColumn {
 public:
  /// Decides the type. Takes the texts of the column.
  MergedColumn(RunColumn& column, std::size_t position);

  /// Decides the level, as at_its_level() does, and notes it in `built`.
  [[nodiscard]] OrError<void> choose_level(const MergedLines& lines, daybook::BuiltDaybook& built);

  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] daybook::Level level() const { return level_; }
  [[nodiscard]] daybook::ColumnType type() const { return type_; }
  [[nodiscard]] const TextArray& dictionary() const { return dictionary_; }  ///< of a column of texts

  /// use(T()) with the type of the column's array.
  template <class Use>
  auto with_type(Use use) const {
    switch (type_) {
      case daybook::ColumnType::decimal:
        return use(std::int64_t{});
      case daybook::ColumnType::flag:
        return use(std::uint8_t{});
      case daybook::ColumnType::text:
        return use(std::uint32_t{});
      default:
        return use(std::int32_t{});
    }
  }

  template <class T>
  [[nodiscard]] ColumnStream<T> values(const MergedLines& lines) const {
    const auto pages = [this](const SortedRun& run) -> const ArrayPages& { return run.columns[position_]; };
    if (is_coded_) return {LineStream<std::uint32_t>(lines, pages), std::get<std::vector<T>>(value_of_code_)};
    return ColumnStream<T>(LineStream<T>(lines, pages));
  }

  /// The value of each customer, or of each product, by the column's level.
  [[nodiscard]] OrError<daybook::ColumnValues> by_member(const MergedLines& lines) const;

 private:
  std::string name_;
  std::size_t position_;
  std::vector<daybook::Level> levels_;
  bool forced_;
  bool is_coded_;
  daybook::ColumnType type_;
  daybook::Level level_ = daybook::Level::line;
  TextArray dictionary_;
  /// By type of the column, if it was one of texts: ranks of texts, numbers, or days.
  std::tuple<std::vector<std::uint32_t>, std::vector<std::int64_t>, std::vector<std::int32_t>,
             std::vector<std::uint8_t>>
      value_of_code_;
};

}  // namespace pear::storage
