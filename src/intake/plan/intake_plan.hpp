// The contents of an intake file: where the raw data is, the role of each column, how tables join, and what
// is cleaned. docs/intake-file.md describes its keys.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "base/decimal.hpp"
#include "daybook/column.hpp"
#include "sources/table_address.hpp"

namespace pear::intake {

/// The tables of raw data, in the order of reports.
enum class TableKind : std::uint8_t { lines, orders, products, customers, prices };
constexpr std::size_t kTableKinds = 5;
[[nodiscard]] std::string_view to_text(TableKind kind);   ///< "lines"
[[nodiscard]] std::string_view singular(TableKind kind);  ///< "line"

/// How numbers are written.
struct NumberFormat {
  char decimal = '.';
  std::string thousands = {};  ///< one character; " " is any blank, "'" any apostrophe; empty for none
  std::vector<std::string> strip = {};  ///< currencies and units to remove from either end
  bool brackets = false;                ///< (12.00) is below zero
  bool trailing_minus = false;          ///< 12.00- is below zero
  bool percent = false;                 ///< 10% is 0.1
  [[nodiscard]] bool is_plain() const {
    return decimal == '.' && thousands.empty() && strip.empty() && !brackets && !trailing_minus && !percent;
  }
};

/// How dates are written.
struct MomentFormat {
  std::vector<std::string> formats;  ///< strftime codes or kSerial, tried in turn; ISO 8601 if empty
  std::string language = "en";       ///< of the names of months (ISO 639)
};

/// The format of a spreadsheet's serial number: days since 1899-12-30, the fraction is the time of day.
constexpr std::string_view kSerial = "serial";

/// A column that is computed from the others of its source.
struct ComputedColumn {
  std::string name;
  std::string expression;
};

/// Sources of one table that have the same columns, written in the same way.
struct SourcePlan {
  std::vector<sources::TableAddress> sources;
  std::vector<std::pair<std::string, std::string>> columns;  ///< our name, and the header of the column
  MomentFormat dates;
  NumberFormat numbers;
  bool trim_all = false;
  std::vector<std::string> trim;       ///< names of columns
  std::vector<std::string> fold_case;  ///< names of columns
  std::vector<std::string> empty_as;
  std::vector<std::string> skip_rows;  ///< patterns of the first value of rows that are not rows of the table
  std::string skip_if;  ///< a condition on the values as they are written, for the same; empty for none
  std::map<std::string, std::map<std::string, std::string>> replace;  ///< by column: value, new value
  std::vector<ComputedColumn> computed;                               ///< in the order of the file
};

/// One of [lines], [orders], [products], [customers], [prices].
struct TablePlan {
  std::vector<SourcePlan> from;  ///< one, or one for each [[TABLE.from]]
  /// Of all of them, in order.
  [[nodiscard]] std::vector<sources::TableAddress> sources() const;
};

/// A pair of columns whose values are equal in rows that belong together: ours, theirs.
using JoinKeys = std::vector<std::pair<std::string, std::string>>;

struct DuplicateRule {
  TableKind table = TableKind::lines;
  std::vector<std::string> same;  ///< expressions
  bool keep_last = false;
  std::string by;  ///< an expression; the order of the rows if empty
};

/// Lines that are left out on purpose, such as those of test customers.
struct Exclusion {
  std::string condition;
  std::string reason;
};

struct Requirement {
  TableKind table = TableKind::lines;
  std::string condition;
  std::string reason;
};

struct Group {
  std::string name;
  std::string from;
  std::vector<std::pair<std::string, std::vector<std::string>>> values;  ///< the group, and its values
  std::optional<std::string> other;
};

struct Band {
  std::string name;
  std::string from;
  std::vector<Decimal> edges;  ///< rising
};

struct SameCustomer {
  std::string id;
  std::vector<std::string> also;
};

struct IntakePlan {
  std::string file;  ///< the intake file, for messages; empty if there is none
  std::string shop;
  std::string currency;
  std::optional<TablePlan> tables[kTableKinds];               ///< by TableKind
  std::map<std::pair<TableKind, TableKind>, JoinKeys> joins;  ///< from the many to the one
  std::vector<DuplicateRule> duplicates;
  std::vector<Requirement> requirements;
  std::vector<Exclusion> exclusions;
  bool replace_orders = false;  ///< an order that a later source contains again replaces the earlier one
  std::string return_condition;
  bool turn_returns = true;        ///< returns by the condition with positive figures become negative
  std::string fee_condition;       ///< lines that are sales, but never a product
  std::string latest_customer_by;  ///< the column of customers that shows which row is the newest
  std::vector<SameCustomer> same_customers;
  std::vector<Group> groups;
  std::vector<Band> bands;
  std::map<std::string, daybook::Level> levels;
  std::uint32_t sample = 0;  ///< 1 in so many customers are read, see is_in_sample; 0: all

  [[nodiscard]] const TablePlan* table(TableKind kind) const {
    const auto& found = tables[static_cast<std::size_t>(kind)];
    return found ? &*found : nullptr;
  }
};

}  // namespace pear::intake
