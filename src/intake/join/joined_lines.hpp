// The lines with the columns of the other tables.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/join/joins.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// A column of one of the tables, as the lines see it.
struct JoinedColumn {
  std::string name;  ///< unique among all
  TableKind table = TableKind::lines;
  RawColumn* column = nullptr;
};

/// The tables, joined: per line the row of each other table. Columns are not copied.
class JoinedLines {
 public:
  using Tables = std::vector<std::optional<RawTable>>;  ///< by TableKind; there are always lines

  /// Joins by the plan's keys, otherwise by order_id, product_id and customer_id. Rejects lines without a row
  /// of orders, unless they have a date and a customer themselves. Errors: those of join_tables.
  [[nodiscard]] static OrError<JoinedLines> make(const IntakePlan& plan, Tables tables, IntakeLog& log);

  [[nodiscard]] RawTable& lines() { return *tables_.front(); }
  [[nodiscard]] const RawTable& lines() const { return *tables_.front(); }
  [[nodiscard]] const std::optional<RawTable>& table(TableKind kind) const {
    return tables_[static_cast<std::size_t>(kind)];
  }
  [[nodiscard]] const std::vector<Join>& joins() const { return joins_; }

  /// Every column once: a key on both sides of a join is only that of the lines' side; of other columns with
  /// the same name the later table's gets its table's name in front.
  [[nodiscard]] std::vector<JoinedColumn> columns();
  /// Per line the row of the table; null for the lines themselves.
  [[nodiscard]] const std::vector<std::uint32_t>* rows_of(TableKind kind) const;
  /// The columns as expressions see them. Borrows this.
  [[nodiscard]] expression::RowView view();
  /// Adds a column to the table that contains `from`.
  void add_column(const JoinedColumn& from, std::string name, daybook::ColumnValues values);

  /// A list price for each line, replacing those of lines and products; and how these were found.
  void set_list_prices(std::vector<std::int64_t> units, Join found);

  /// Rejects the lines whose flag is 0.
  void reject_lines(const std::vector<std::uint8_t>& stays, const std::string& column,
                    const std::string& reason, IntakeLog& log);

  /// Leaves them out on purpose, see exclude_rows.
  void exclude_lines(const std::vector<std::uint8_t>& stays, const std::string& reason, IntakeLog& log);
  /// The same, see tally_out_rows.
  void sample_lines(const std::vector<std::uint8_t>& stays, const std::string& reason, IntakeLog& log);

 private:
  void keep(const std::vector<std::uint8_t>& stays);
  /// Lines of a system that exports orders separately get the order's date, customer and currency, where
  /// other lines have them themselves.
  void fill_from_orders();
  /// Whether the line has a date and a customer, and so needs no row of orders.
  [[nodiscard]] bool has_order_data(std::size_t line) const;
  explicit JoinedLines(Tables tables) : tables_(std::move(tables)) {}
  [[nodiscard]] OrError<void> join(const IntakePlan& plan, TableKind many, TableKind one,
                                   const std::string& key);
  [[nodiscard]] OrError<void> join_customers(const IntakePlan& plan);

  Tables tables_;
  std::vector<std::vector<std::uint32_t>> rows_of_{kTableKinds};  // by TableKind; empty where not joined
  std::vector<Join> joins_;
  std::vector<std::pair<TableKind, std::string>> hidden_;  // keys that the other side has
};

}  // namespace pear::intake
