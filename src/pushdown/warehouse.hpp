// The sales of a shop in a database, as an intake file describes them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "database/address.hpp"
#include "daybook/column.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::pushdown {

/// A column of the lines, by its name in a daybook.
struct WarehouseColumn {
  std::string name;
  daybook::Level level = daybook::Level::line;
  daybook::ColumnType type = daybook::ColumnType::text;
  std::string raw;         ///< SQL over the tables of `from`
  bool is_native = false;  ///< whether the database has declared it to be of this type
};

/// A table with one row for each key that the lines refer to; more would count lines twice.
struct UniqueKey {
  std::string query;                 ///< the table, as a SELECT
  std::vector<std::string> columns;  ///< as SQL names
  std::vector<std::string> names;    ///< as the database has them
  std::string table;                 ///< for messages: "products"
};

struct Warehouse {
  database::DatabaseAddress address;
  std::string name;                      ///< of the intake file, for messages and trails
  std::string currency;                  ///< empty if unknown
  std::string from;                      ///< a FROM clause without the word: tables and joins
  std::vector<WarehouseColumn> columns;  ///< with the ids and order_date, quantity, and amount or unit_price
  std::vector<UniqueKey> keys;
  std::optional<expression::Tree> returns;  ///< a condition that marks returns, in addition to lines below 0
  std::optional<expression::Tree> fees;     ///< a condition that marks fees
};

}  // namespace pear::pushdown
