// Builds tables from rows. All questions use it.
#pragma once

#include <cmath>
#include <concepts>
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

#include "analysis/tables/member_column.hpp"
#include "analysis/tables/parallel_texts.hpp"
#include "base/decimal.hpp"
#include "daybook/daybook.hpp"
#include "expression/aggregate/grouping.hpp"
#include "result/table.hpp"

namespace pear::analysis {

/// A figure as units of Decimal; an empty cell if it is NaN.
[[nodiscard]] inline std::int64_t in_units(double value) {
  return std::isfinite(value) ? std::llround(value * Decimal::kScale) : result::kEmptyCell;
}
[[nodiscard]] inline std::int64_t in_units(const std::optional<Decimal>& value) {
  return value ? value->units() : result::kEmptyCell;
}

/// Nothing if the sum is out of range.
[[nodiscard]] inline std::int64_t in_units(const DecimalSum& sum) { return in_units(sum.total()); }

/// Rows that are created when a cell is read, for tables with so many rows that storing their values would
/// take too much memory. `at(row)` keeps its inputs alive, and several threads may call it.
template <class At>
struct LazyRows {
  std::size_t count = 0;
  At at;
  [[nodiscard]] std::size_t size() const { return count; }
  [[nodiscard]] decltype(auto) operator[](std::size_t row) const { return at(row); }
};
template <class At>
LazyRows(std::size_t, At) -> LazyRows<At>;

/// The numbers 0 to count - 1, for tables whose rows are positions in arrays.
struct NumberedRows {
  std::size_t count = 0;
  [[nodiscard]] std::size_t size() const { return count; }
  [[nodiscard]] std::size_t operator[](std::size_t row) const { return row; }
};

/// work(begin, end) for runs of rows, on all threads if there are many rows.
void for_each_run(std::size_t rows, const std::function<void(std::size_t begin, std::size_t end)>& work);

/// Adds columns to a table, each declared once: its name, its unit (the name of the function), a description,
/// and its value in a row. Values are computed at once from stored rows (a vector or NumberedRows), on all
/// threads if there are many, and when they are read from LazyRows. Each function returns the column, so that
/// its presentation can be set: `builder.count(...).always_shown = true`.
template <class Rows>
class TableBuilder {
 public:
  TableBuilder(result::Table& table, const Rows& rows) : table_(table), rows_(rows) {}

  template <class Of>
  result::TableColumn& integer(result::Unit unit, std::string name, std::string description, Of of) {
    return add(std::move(name), unit, std::move(description), values<std::int64_t>(std::move(of)));
  }
  template <class Of>
  result::TableColumn& count(std::string name, std::string description, Of of) {
    return integer(result::Unit::count, std::move(name), std::move(description), std::move(of));
  }
  template <class Of>
  result::TableColumn& days(std::string name, std::string description, Of of) {
    return integer(result::Unit::days, std::move(name), std::move(description), std::move(of));
  }
  template <class Of>
  result::TableColumn& date(std::string name, std::string description, Of of) {
    return integer(result::Unit::date, std::move(name), std::move(description), std::move(of));
  }
  /// Exact units of Decimal.
  template <class Of>
  result::TableColumn& money(std::string name, std::string description, Of of) {
    return integer(result::Unit::money, std::move(name), std::move(description), std::move(of));
  }
  /// The same, shown with two decimals: averages, and sums of values with up to four.
  template <class Of>
  result::TableColumn& rounded_money(std::string name, std::string description, Of of) {
    result::TableColumn& column = money(std::move(name), std::move(description), std::move(of));
    column.places = 2;
    return column;
  }
  /// A floating-point number, shown with this many decimals; empty if it is NaN.
  template <class Of>
  result::TableColumn& number(std::string name, std::string description, int places, Of of) {
    result::TableColumn& column =
        integer(result::Unit::number, std::move(name), std::move(description),
                [of = std::move(of)](const auto& row) { return in_units(of(row)); });
    column.places = places;
    return column;
  }
  /// 0 to 1; empty if it is NaN.
  template <class Of>
  result::TableColumn& share(std::string name, std::string description, Of of) {
    return add(std::move(name), result::Unit::share, std::move(description), values<double>(std::move(of)));
  }
  /// A p or q value.
  template <class Of>
  result::TableColumn& probability(std::string name, std::string description, Of of) {
    return add(std::move(name), result::Unit::probability, std::move(description),
               values<double>(std::move(of)));
  }
  /// Not for lazy rows.
  template <class Of>
  result::TableColumn& text(std::string name, std::string description, Of of) {
    return add(
        std::move(name), result::Unit::text, std::move(description),
        parallel_texts(rows_.size(), [&](std::size_t row, std::string& text) { text = of(rows_[row]); }));
  }

  /// Ids or other texts by position; empty for kNoMember. Not for lazy rows.
  template <class Of>
  result::TableColumn& id(std::string_view name, std::string description, const TextArray& ids, Of of) {
    return add(id_column(name, std::move(description), ids, codes(of)));
  }
  /// The labels of codes of a key. Not for lazy rows.
  template <class Of>
  result::TableColumn& key(std::string name, std::string description, const expression::GroupKey& key,
                           Of of) {
    return add(key_column(std::move(name), std::move(description), key, codes(of)));
  }
  /// The names of products or customers, by codes of their key, if the daybook has loaded them. Not for lazy
  /// rows.
  template <class Of>
  void names(const daybook::Daybook& daybook, const expression::GroupKey& key, Of of) {
    add_names(daybook, key, codes(of), table_.columns);
  }
  /// The result of `of` for each row, as codes. Not for lazy rows.
  template <class Of>
  [[nodiscard]] std::vector<std::uint32_t> codes(Of of) const {
    std::vector<std::uint32_t> all;
    all.reserve(rows_.size());
    for (std::size_t row = 0; row < rows_.size(); ++row)
      all.push_back(static_cast<std::uint32_t>(of(rows_[row])));
    return all;
  }
  /// A column that was built elsewhere.
  result::TableColumn& add(result::TableColumn column) {
    table_.columns.push_back(std::move(column));
    return table_.columns.back();
  }

 private:
  static constexpr bool kIsLazy = !requires(const Rows& rows) { rows.data(); }
  &&!std::same_as<Rows, NumberedRows>;

  template <class Values>
  result::TableColumn& add(std::string name, result::Unit unit, std::string description, Values values) {
    result::TableColumn column;
    column.name = std::move(name);
    column.unit = unit;
    column.description = std::move(description);
    column.values = std::move(values);
    return add(std::move(column));
  }

  template <class T, class Of>
  [[nodiscard]] auto values(Of of) const {
    if constexpr (kIsLazy) {
      return result::computed<T>(
          rows_.size(), [rows = rows_, of = std::move(of)](std::size_t row) { return of(rows[row]); });
    } else {
      std::vector<T> all(rows_.size());
      for_each_run(all.size(), [&](std::size_t begin, std::size_t end) {
        for (std::size_t row = begin; row < end; ++row) all[row] = static_cast<T>(of(rows_[row]));
      });
      return all;
    }
  }

  result::Table& table_;
  const Rows& rows_;
};

/// Adds a series to the marks of a figure: a column with a unique name, which is returned, and the title that
/// is shown.
[[nodiscard]] std::string add_series(result::Table& marks, std::string title, result::TableColumn column);

}  // namespace pear::analysis
