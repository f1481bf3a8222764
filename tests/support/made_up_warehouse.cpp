#include "support/made_up_warehouse.hpp"

#include <cstdlib>
#include <stdexcept>

#include <absl/strings/str_split.h>
#include <fmt/format.h>
#include <soci/soci.h>
#include <unistd.h>

#include "analysis/options/shared_options.hpp"
#include "database/connection.hpp"
#include "expression/rows/line_view.hpp"
#include "pushdown/ask_database.hpp"
#include "questions/all_questions.hpp"
#include "result/cell_text.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

const char* type_of(daybook::ColumnType type) {
  return type == daybook::ColumnType::decimal ? "NUMERIC(19, 4)"
         : type == daybook::ColumnType::date  ? "DATE"
                                              : "TEXT";
}

/// The columns of the lines that are not derived, by name.
std::vector<expression::ViewColumn> stored_columns(const expression::LineView& lines) {
  std::vector<expression::ViewColumn> columns;
  for (const expression::ViewColumn& column : lines.rows().columns)
    if (column.name != daybook::role::kIsReturn && column.name != daybook::role::kIsFee)
      columns.push_back(column);
  return columns;
}

std::string row_of(const std::vector<expression::ViewColumn>& columns, std::size_t row) {
  std::string values;
  for (const expression::ViewColumn& column : columns) {
    const std::string text = daybook::value_text(*column.values, column.member(row));
    values += values.empty() ? "(" : ", ";
    values += text.empty() ? "NULL" : pushdown::text_literal(text);
  }
  return values + ")";
}

/// Whether each amount is the product of quantity and price, so that a table may be without amounts.
bool are_products(const daybook::Daybook& daybook) {
  const auto* quantity = daybook.find(daybook::role::kQuantity);
  const auto* price = daybook.find(daybook::role::kUnitPrice);
  if (quantity == nullptr || price == nullptr || price->level != daybook::Level::line) return false;
  const auto& quantities = std::get<daybook::DecimalValues>(quantity->values).units;
  const auto& prices = std::get<daybook::DecimalValues>(price->values).units;
  for (std::uint32_t line = 0; line < daybook.lines(); ++line) {
    if (quantities[line] == daybook::kEmptyUnits || prices[line] == daybook::kEmptyUnits) return false;
    const auto product =
        checked_multiply(Decimal::from_units(quantities[line]), Decimal::from_units(prices[line]));
    if (!product || product->units() != daybook.amounts()[line]) return false;
  }
  return true;
}

daybook::Level level_of(const daybook::Daybook& daybook, const std::string& name) {
  const daybook::Column* column = daybook.find(name);
  return column == nullptr ? daybook::Level::line : column->level;
}

}  // namespace

MadeUpWarehouse::MadeUpWarehouse(const daybook::Daybook& daybook, const TestDatabase& database) {
  const std::string& server = database.server;
  warehouse_.address =
      server.empty() ? database::DatabaseAddress{database::DatabaseKind::sqlite, folder_ / "shop.db", ""}
                     : *database::parse_database_address(server);
  session_ = *database::connect(warehouse_.address, true);
  const expression::LineView lines(daybook);
  auto columns = stored_columns(lines);
  if (are_products(daybook) && pick(0, 1) == 0)
    std::erase_if(columns, [](const auto& column) { return column.name == daybook::role::kAmount; });
  warehouse_.name = "warehouse.toml";
  warehouse_.currency = "EUR";
  warehouse_.from = fmt::format("sales_{}", getpid());
  std::string definition, rows;
  for (const expression::ViewColumn& column : columns) {
    const auto type = static_cast<daybook::ColumnType>(column.values->index());
    const std::string name = database::sql_name(column.name);
    warehouse_.columns.push_back({column.name, level_of(daybook, column.name), type, name, pick(0, 1) == 0});
    definition += fmt::format("{}{} {}", definition.empty() ? "" : ", ", name, type_of(type));
  }
  for (std::size_t row = 0; row < lines.rows().rows; ++row)
    rows += (rows.empty() ? "" : ", ") + row_of(columns, row);
  *session_ << fmt::format("CREATE TABLE {} ({}){}", warehouse_.from, definition,
                           database.shards.empty() ? "" : " PARTITION BY HASH (customer_id)");
  for (const std::string& shard : database.shards) {
    shards_.push_back(*database::connect(*database::parse_database_address(shard), true));
    *shards_.back() << fmt::format("CREATE TABLE {} ({})", warehouse_.from, definition);
    *session_ << fmt::format(
        "CREATE FOREIGN TABLE {0}_{1} PARTITION OF {0} FOR VALUES WITH (MODULUS {2}, REMAINDER {3}) SERVER "
        "shard{1} "
        "OPTIONS (table_name '{0}')",
        warehouse_.from, shards_.size(), database.shards.size(), shards_.size() - 1);
  }
  *session_ << fmt::format("INSERT INTO {} VALUES {}", warehouse_.from, rows);
  if (!database.reader.empty()) warehouse_.address = *database::parse_database_address(database.reader);
}

MadeUpWarehouse::~MadeUpWarehouse() {
  *session_ << "DROP TABLE " + warehouse_.from;
  for (const auto& shard : shards_) *shard << "DROP TABLE " + warehouse_.from;
}

OrError<result::Result> MadeUpWarehouse::try_to_ask(const std::string& question,
                                                    const analysis::OptionValues& options) const {
  for (const analysis::Question& each : questions::all_questions()) {
    if (each.name != question) continue;
    PEAR_ASSIGN(const analysis::PreparedQuestion prepared, each.prepare(options));
    PEAR_ASSIGN(const analysis::SharedOptions shared, analysis::read_shared_options(each, options));
    PEAR_ASSIGN(pushdown::Session session, pushdown::Session::open(warehouse_.address));
    auto result = pushdown::ask_database({each, options, prepared, shared}, warehouse_, session);
    statements_ = session.statements();
    return result;
  }
  throw std::logic_error("there is no question " + question);
}

std::vector<TestDatabase> test_databases() {
  std::vector<TestDatabase> databases(1);
  const char *server = std::getenv("PEAR_TEST_POSTGRESQL"), *shards = std::getenv("PEAR_TEST_SHARDS");
  if (server != nullptr && pick(0, 1) == 0) databases.push_back({server, {}});
  if (server != nullptr && shards != nullptr && pick(0, 5) == 0)
    databases.push_back({server, absl::StrSplit(shards, ' ')});
  const char* odbc = std::getenv("PEAR_TEST_ODBC");
  if (server != nullptr && odbc != nullptr && pick(0, 5) == 0) databases.push_back({server, {}, odbc});
  return databases;
}

std::string as_text(const OrError<result::Result>& result) {
  if (!result) return fmt::format("error {}", static_cast<int>(result.error().kind));
  std::string text;
  for (const std::string& sentence : result->headline) text += sentence + "\n";
  for (const result::Table& table : result->tables) {
    text += "== " + table.part + "\n";
    for (const result::TableColumn& column : table.columns) text += column.name + ",";
    text += "\n";
    for (std::size_t row = 0; row < table.rows(); ++row) {
      for (const result::TableColumn& column : table.columns) text += result::cell_text(column, row) + ",";
      text += "\n";
    }
  }
  for (const std::string& note : result->notes) text += "note: " + note + "\n";
  for (const result::Check& check : result->checks)
    text += fmt::format("check: {} {}\n", check.statement, check.holds);
  return text;
}

}  // namespace pear::test
