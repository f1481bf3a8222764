// Tables: typed columns, each with a unit and a sentence that says what it is.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <functional>
#include <limits>
#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text_array.hpp"

namespace pear::result {

/// What the values of a column are, which decides how writers show them.
enum class Unit : std::uint8_t {
  text,         ///< TextArray
  count,        ///< whole numbers
  days,         ///< whole numbers of days
  date,         ///< days since 1970-01-01
  money,        ///< units of Decimal, in the currency of the daybook
  share,        ///< 0 to 1: six places in files, per cent on a terminal and in figures
  number,       ///< units of Decimal, of anything else
  probability,  ///< 0 to 1: six digits in files, "< 0.0001" on a terminal
};

/// Whether values are stored as floating-point numbers, not as integers.
[[nodiscard]] constexpr bool is_fraction(Unit unit) {
  return unit == Unit::share || unit == Unit::probability;
}

[[nodiscard]] std::string_view to_text(Unit unit);

/// A cell without a value, for all units stored as integers. Texts are empty; shares are NaN.
constexpr std::int64_t kEmptyCell = std::numeric_limits<std::int64_t>::min();

/// Repeated texts: positions in an array of them that columns may share; kNoText if there is none.
struct CodedTexts {
  static constexpr std::uint32_t kNoText = std::numeric_limits<std::uint32_t>::max();
  std::vector<std::uint32_t> codes;
  std::shared_ptr<const TextArray> texts;

  [[nodiscard]] std::size_t size() const { return codes.size(); }
  [[nodiscard]] std::string_view operator[](std::size_t row) const {
    return codes[row] == kNoText ? std::string_view() : (*texts)[codes[row]];
  }
};

/// Values computed whenever they are read, for tables with so many rows that storing them would take more
/// memory than their inputs.
template <class T>
struct LazyColumn {
  std::size_t rows = 0;
  /// Computes the values of rows `begin` to `end`, so that the loop over many rows is compiled as one. Keeps
  /// its inputs alive, and several threads may call it.
  std::function<void(std::size_t begin, std::size_t end, T* values)> fill;

  [[nodiscard]] std::size_t size() const { return rows; }
  [[nodiscard]] T operator[](std::size_t row) const {
    T value{};
    fill(row, row + 1, &value);
    return value;
  }
};

/// The column whose value in a row is at(row).
template <class T, class At>
[[nodiscard]] LazyColumn<T> computed(std::size_t rows, At at) {
  return {rows, [at = std::move(at)](std::size_t begin, std::size_t end, T* values) {
            for (std::size_t row = begin; row < end; ++row) *values++ = static_cast<T>(at(row));
          }};
}

/// The column whose values are of(value) of another one.
template <class T, class From, class Of>
[[nodiscard]] LazyColumn<T> computed_from(LazyColumn<From> from, Of of) {
  const std::size_t rows = from.rows;
  return {rows, [fill = std::move(from.fill), of = std::move(of)](std::size_t begin, std::size_t end, T* to) {
            std::array<From, 256> part;
            while (begin < end) {
              const std::size_t count = std::min(part.size(), end - begin);
              fill(begin, begin + count, part.data());
              for (std::size_t i = 0; i < count; ++i) *to++ = static_cast<T>(of(part[i]));
              begin += count;
            }
          }};
}

/// Whose id the texts of a column are.
enum class IdOf : std::uint8_t { none, customer, product };

struct TableColumn {
  std::string name;
  Unit unit = Unit::text;
  std::string description;
  std::variant<std::vector<std::int64_t>, std::vector<double>, TextArray, CodedTexts,
               LazyColumn<std::int64_t>, LazyColumn<double>, LazyColumn<std::string_view>,
               LazyColumn<std::string>>
      values;
  int places = -1;  ///< decimals on a terminal; -1: two for money, and as many as there are for numbers
  bool always_shown = false;  ///< on a terminal without room for all columns
  /// For columns under a common heading: that heading, and the column's own. Files use only `name`.
  std::string group, heading;
  IdOf id_of = IdOf::none;  ///< so that names and other columns can be shown next to it
  bool is_asked = false;    ///< the user named it: on a terminal it is shown before all others
  bool is_below = false;    ///< a sentence: a terminal without room for all columns shows it below its row

  [[nodiscard]] std::size_t size() const;
  /// The column's heading on a terminal and in reports: its own heading, or else the name.
  [[nodiscard]] const std::string& title() const { return heading.empty() ? name : heading; }
  [[nodiscard]] bool is_empty(std::size_t row) const;
  [[nodiscard]] std::int64_t integer(std::size_t row) const {
    return values.index() == 0 ? std::get<0>(values)[row] : std::get<LazyColumn<std::int64_t>>(values)[row];
  }
  [[nodiscard]] double fraction(std::size_t row) const {
    return values.index() == 1 ? std::get<1>(values)[row] : std::get<LazyColumn<double>>(values)[row];
  }
  /// Where texts are composed when they are read, valid until the thread reads the next one.
  [[nodiscard]] std::string_view text(std::size_t row) const;
};

[[nodiscard]] TableColumn text_column(std::string name, std::string description, TextArray values);
[[nodiscard]] TableColumn text_column(std::string name, std::string description, CodedTexts values);
[[nodiscard]] TableColumn integer_column(std::string name, Unit unit, std::string description,
                                         std::vector<std::int64_t> values);
[[nodiscard]] TableColumn share_column(std::string name, std::string description, std::vector<double> values);
[[nodiscard]] TableColumn probability_column(std::string name, std::string description,
                                             std::vector<double> values);

/// A column whose values are computed when they are read; not for texts.
[[nodiscard]] TableColumn lazy_column(std::string name, Unit unit, std::string description,
                                      LazyColumn<std::int64_t> values);
[[nodiscard]] TableColumn lazy_share_column(std::string name, std::string description,
                                            LazyColumn<double> values);
/// A column of texts or anything else by member, for rows of which each has a member.
[[nodiscard]] TableColumn seen_from(const TableColumn& by_member, LazyColumn<std::uint32_t> members);

struct Table {
  std::string part;         ///< the part of the file's name after the stem; empty for the main table
  std::string title;        ///< a few words
  std::string description;  ///< one sentence: what a row is
  std::vector<TableColumn> columns;
  std::size_t most_shown = std::numeric_limits<std::size_t>::max();  ///< rows that a terminal shows at most
  std::vector<std::size_t> totals =
      {};  ///< rows that sum up others; the last row, if it is one, is always shown

  std::vector<std::uint8_t> faint = {};  ///< 1 for rows that are not findings; none if empty
  /// Times in their order: where not all fit on a terminal, the newest are shown.
  bool rows_by_time = false, columns_by_time = false;

  [[nodiscard]] bool ends_in_total() const { return !totals.empty() && totals.back() + 1 == rows(); }

  [[nodiscard]] std::size_t rows() const { return columns.empty() ? 0 : columns.front().size(); }

  /// The column of that name, which must exist. If there are several, the last one: columns that a user names
  /// come before a question's own, and a table with duplicate names is only rejected when it is complete.
  [[nodiscard]] const TableColumn& column(std::string_view name) const;
  [[nodiscard]] TableColumn& column(std::string_view name);
};

/// The rows sorted by columns, each with whether it descends. Equal rows keep their order, and rows without a
/// value come last.
[[nodiscard]] std::vector<std::uint32_t> row_order(const Table& table,
                                                   const std::vector<std::pair<std::size_t, bool>>& by);

/// The table with these of its rows, in this order.
[[nodiscard]] Table picked_rows(Table table, const std::vector<std::uint32_t>& rows);

}  // namespace pear::result
