// The steps of an import between reading and sorting, for all rows or for a part of them.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "daybook/line_table.hpp"
#include "intake/clean/spelling.hpp"
#include "intake/import.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

using Tables = JoinedLines::Tables;  ///< by TableKind
using Kinds = std::vector<TableKind>;

/// The table of a kind in a list by TableKind.
[[nodiscard]] inline std::optional<RawTable>& table_of(Tables& tables, TableKind kind) {
  return tables[static_cast<std::size_t>(kind)];
}

/// What some steps need to know of all rows.
struct RowFacts {
  UsualSpellings spelling;
  std::map<TableKind, bool> shares_order_ids;  ///< see ids_are_shared
  std::map<std::string, bool> whole_bands;     ///< by name, see is_whole
};

/// Cleans, joins and checks tables, and keeps the account of it. Errors: data, of the plan against the data,
/// naming the key.
class Importing {
 public:
  Importing(const IntakePlan& plan, IntakeLog& log) : plan_(plan), log_(log) {}

  Tables tables{kTableKinds};
  const RowFacts* facts = nullptr;  ///< of all rows; if null, they are found in the tables

  /// Unites spellings and customers, leaves out orders that are in a later source again, and drops
  /// duplicates, in the tables of these kinds.
  [[nodiscard]] OrError<void> clean(const Kinds& kinds);
  /// Keeps each customer's newest row, and the rows that [[require]] wants; not of lines.
  [[nodiscard]] OrError<void> settle(const Kinds& kinds);
  /// Joins the tables and makes the lines of the daybook, which may be none: see lines_left().
  [[nodiscard]] OrError<daybook::LineTable> prepare();

  /// Adds what these tables say, before clean() and instead of it.
  void find_shared_ids(const Kinds& kinds, RowFacts& found);
  /// The same after settle(), instead of prepare().
  [[nodiscard]] OrError<void> find_whole_bands(RowFacts& found);

  /// After each step that leaves out lines: how many are left, and what to say if there are none.
  [[nodiscard]] const std::vector<std::pair<std::string, std::uint64_t>>& lines_left() const {
    return lines_left_;
  }
  [[nodiscard]] Imported take() { return std::move(imported_); }

 private:
  /// One spelling for each value, and one id for each customer.
  void unite(const Kinds& kinds);
  /// With list prices and groups.
  [[nodiscard]] OrError<JoinedLines> join();
  [[nodiscard]] OrError<void> add_bands(JoinedLines& lines);
  [[nodiscard]] OrError<void> require(TableKind kind, RawTable& table);
  [[nodiscard]] OrError<void> exclude_lines(JoinedLines& lines);
  [[nodiscard]] OrError<void> require_lines(JoinedLines& lines);
  void note_left(const JoinedLines& lines, std::string message) {
    lines_left_.emplace_back(std::move(message), lines.lines().rows());
  }
  void take_account(JoinedLines& lines);

  const IntakePlan& plan_;
  IntakeLog& log_;
  std::vector<std::pair<std::string, std::uint64_t>> lines_left_;
  Imported imported_;
};

/// Error: data, with the message of the first step that leaves no line.
[[nodiscard]] OrError<void> check_any_left(
    const std::vector<std::pair<std::string, std::uint64_t>>& lines_left);

/// Fills in what is known once the daybook is built: names that customers share, and notes on what was
/// decided. `imported.built` needs the customers and their columns.
void describe_built(const IntakePlan& plan, Imported& imported);

}  // namespace pear::intake
