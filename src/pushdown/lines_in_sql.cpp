#include "pushdown/lines_in_sql.hpp"

#include <algorithm>
#include <optional>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/daybook.hpp"
#include "pushdown/aggregate_in_sql.hpp"
#include "pushdown/derived_columns.hpp"
#include "pushdown/sql_expression.hpp"

namespace pear::pushdown {
namespace {

namespace role = daybook::role;

daybook::ColumnValues empty_value(daybook::ColumnType type) {
  switch (type) {
    case daybook::ColumnType::text:
      return daybook::TextValues{{daybook::kEmptyCode}, {}};
    case daybook::ColumnType::decimal:
      return daybook::DecimalValues{{daybook::kEmptyUnits}};
    case daybook::ColumnType::date:
      return daybook::DateValues{{daybook::kEmptyDays}};
    case daybook::ColumnType::time:
      return daybook::TimeValues{{Moment::kNoTime}};
    case daybook::ColumnType::flag:
      break;
  }
  return daybook::FlagValues{{0}};
}

bool is_id(std::string_view name) {
  return name == role::kCustomerId || name == role::kOrderId || name == role::kProductId;
}

/// Writes the queries one after another: the lines as the warehouse has them, their returns and fees, what
/// they determine themselves, what their customers' histories determine, aggregates OVER, and the selection.
class Queries {
 public:
  explicit Queries(const LineScope& scope) : scope_(scope) {}

  OrError<std::string> write(const analysis::Selection& selection, Date data_end) {
    PEAR_TRY(check_columns());
    add("pear_raw", fmt::format("SELECT {} FROM {}", raw_columns(), scope_.warehouse.from));
    PEAR_TRY(add_marks());
    add_derived();
    add_histories();
    for (const expression::Window& window : scope_.windows) PEAR_TRY(add_window(window));
    add("pear_all_lines", "SELECT * FROM " + last_);
    PEAR_ASSIGN(const std::string condition, condition_of(selection, data_end));
    add("pear_lines", "SELECT * FROM pear_all_lines" + (condition.empty() ? "" : " WHERE " + condition));
    return std::move(with_) + "\n";
  }

 private:
  void add(const std::string& name, const std::string& query) {
    with_ += fmt::format("{}{} AS {}({})", with_.empty() ? "WITH " : ",\n", name, scope_.dialect.as_written(),
                         query);
    last_ = name;
  }

  /// The last query with more columns.
  void add_columns(const std::string& name, const std::vector<std::string>& columns) {
    if (!columns.empty()) add(name, fmt::format("SELECT {1}.*, {0} FROM {1}", join(columns, ", "), last_));
  }

  /// Some derived columns need the order of a customer's orders, or a ranking of all customers.
  [[nodiscard]] OrError<void> check_columns() const {
    for (const daybook::Column& column : scope_.schema.daybook().parts().columns) {
      const bool is_made =
          stored(column.name) != nullptr || column.name == role::kAmount || column.name == role::kIsReturn ||
          column.name == role::kIsFee || derived_of_line(column.name, scope_.dialect) ||
          derived_of_history(column.name, scope_.dialect, false) ||
          std::any_of(scope_.windows.begin(), scope_.windows.end(),
                      [&](const expression::Window& window) { return window.name == column.name; });
      if (!is_made)
        return usage_error(fmt::format(
            "a database does not compute {}. Use the daybook of an import, or a column of a view.",
            in_quotes(column.name)));
    }
    return {};
  }

  [[nodiscard]] bool uses(std::string_view name) const {
    return scope_.schema.daybook().find(name) != nullptr;
  }

  [[nodiscard]] const WarehouseColumn* stored(std::string_view name) const {
    const auto& columns = scope_.warehouse.columns;
    const auto found = std::find_if(columns.begin(), columns.end(),
                                    [&](const WarehouseColumn& column) { return column.name == name; });
    return found == columns.end() ? nullptr : &*found;
  }

  [[nodiscard]] std::string raw_columns() const {
    std::vector<std::string> columns;
    for (const WarehouseColumn& column : scope_.warehouse.columns)
      if (is_id(column.name) || uses(column.name) || is_of_each_line(column.name))
        columns.push_back(fmt::format("{} AS {}", typed(column), column_in_sql(column.name)));
    // What every statement asks of each line, without units where the database compares its own numbers: a
    // conversion costs more than the rest of a scan.
    for (const std::string_view name : {role::kQuantity, role::kUnitPrice, role::kAmount})
      if (const WarehouseColumn* column = stored(name))
        columns.push_back(fmt::format("{} AS pear_{}_below, {} IS NOT NULL AS pear_{}_known",
                                      below_zero(*column), name,
                                      column->is_native ? column->raw : units_of(*column), name));
    return join(columns, ",\n  ");
  }

  [[nodiscard]] std::string below_zero(const WarehouseColumn& column) const {
    return column.is_native ? scope_.dialect.below_zero_native(column.raw) : units_of(column) + " < 0";
  }

  /// Whether lines without a value of it are left out, or it is needed to know the amount.
  [[nodiscard]] bool is_of_each_line(std::string_view name) const {
    return name == role::kOrderDate || name == role::kQuantity || name == role::kAmount ||
           (name == role::kUnitPrice && stored(role::kAmount) == nullptr);
  }

  [[nodiscard]] std::string typed(const WarehouseColumn& column) const {
    const WarehouseColumn *quantity = stored(role::kQuantity), *price = stored(role::kUnitPrice);
    if (column.name == role::kAmount && price != nullptr)
      return fmt::format("CASE WHEN {0} IS NOT NULL THEN {0} ELSE {1} END", units_of(column),
                         scope_.dialect.product(units_of(*quantity), units_of(*price)));
    const Dialect& dialect = scope_.dialect;
    switch (column.type) {
      case daybook::ColumnType::decimal:
        return units_of(column);
      case daybook::ColumnType::date:
        return column.is_native ? dialect.date_of_native(column.raw) : dialect.date_of(column.raw);
      case daybook::ColumnType::time:
        return dialect.time_of(column.raw);
      default:
        break;
    }
    // An id is a column and nothing else, so that a database that is divided by customer knows the groups of
    // one part.
    if (is_id(column.name) && column.is_native) return column.raw;
    return column.is_native ? dialect.text_of_native(column.raw) : dialect.text_of(column.raw);
  }

  [[nodiscard]] std::string units_of(const WarehouseColumn& column) const {
    return column.is_native ? scope_.dialect.units_of_native(column.raw)
                            : scope_.dialect.units_of(column.raw);
  }

  /// is_return and is_fee, without the lines that lack what each line has.
  OrError<void> add_marks() {
    // A product costs more than a comparison, and few prices are below 0.
    const bool is_priced = stored(role::kAmount) == nullptr;
    if (is_priced)
      add_columns("pear_priced",
                  {fmt::format("{} AS amount", scope_.dialect.product("quantity", "unit_price"))});
    const bool has_both = !is_priced && stored(role::kUnitPrice) != nullptr;
    std::string below_zero = "pear_quantity_below OR ", is_known = "pear_quantity_known AND ";
    if (is_priced) {
      below_zero += "(pear_unit_price_below AND amount < 0)";
      is_known += "pear_unit_price_known";
    } else if (has_both) {
      below_zero += "CASE WHEN pear_amount_known THEN pear_amount_below ELSE amount < 0 END";
      is_known += "(pear_amount_known OR pear_unit_price_known)";
    } else {
      below_zero += "pear_amount_below";
      is_known += "pear_amount_known";
    }
    std::vector<std::string> marks = {fmt::format("({}) AS is_return", below_zero)};
    const SqlScope scope{scope_.dialect, scope_.schema.schema()};
    if (const auto& returns = scope_.warehouse.returns) {
      PEAR_ASSIGN(const std::string condition, sql_of(returns->root, scope));
      marks.front() =
          fmt::format("({} OR CASE WHEN {} THEN TRUE ELSE FALSE END) AS is_return", below_zero, condition);
    }
    if (const auto& fees = scope_.warehouse.fees) {
      PEAR_ASSIGN(const std::string condition, sql_of(fees->root, scope));
      marks.push_back(fmt::format("CASE WHEN {} THEN TRUE ELSE FALSE END AS is_fee", condition));
    }
    add("pear_shop",
        fmt::format(
            "SELECT {1}.*, {0} FROM {1} WHERE customer_id <> '' AND order_id <> '' AND product_id <> '' AND "
            "order_date IS NOT NULL AND {2}",
            join(marks, ", "), last_, is_known));
    return {};
  }

  void add_derived() {
    std::vector<std::string> columns;
    for (const daybook::Column& column : scope_.schema.daybook().parts().columns) {
      if (stored(column.name) != nullptr) continue;
      if (const auto sql = derived_of_line(column.name, scope_.dialect))
        columns.push_back(fmt::format("{} AS {}", *sql, column_in_sql(column.name)));
    }
    add_columns("pear_derived", columns);
  }

  void add_histories() {
    std::vector<std::string> made, taken;
    for (const daybook::Column& column : scope_.schema.daybook().parts().columns) {
      if (stored(column.name) != nullptr) continue;
      if (const auto sql =
              derived_of_history(column.name, scope_.dialect, scope_.warehouse.fees.has_value())) {
        made.push_back(fmt::format("{} AS {}", *sql, column_in_sql(column.name)));
        taken.push_back("pear_histories." + column_in_sql(column.name));
      }
    }
    if (made.empty()) return;
    const std::string lines = last_;
    add("pear_histories",
        fmt::format("SELECT customer_id, {} FROM {} GROUP BY customer_id", join(made, ", "), lines));
    add("pear_history_lines",
        fmt::format(
            "SELECT {0}.*, {1} FROM {0} JOIN pear_histories ON pear_histories.customer_id = {0}.customer_id",
            lines, join(taken, ", ")));
  }

  /// An aggregate of each group of lines that have the same values, joined to each of them.
  OrError<void> add_window(const expression::Window& window) {
    if (!windows_.insert(window.name).second) return {};
    const std::string lines = last_, name = fmt::format("pear_groups_{}", windows_.size());
    const expression::RowView& view = scope_.schema.schema();
    const SqlScope scope{scope_.dialect, view};
    std::vector<std::string> keys, same;
    for (const expression::Node& part : window.aggregate.partition) {
      PEAR_ASSIGN(std::string key, sql_of(part, scope));
      same.push_back(scope_.dialect.same(fmt::format("{}.k{}", name, keys.size()), key));
      keys.push_back(std::move(key));
    }
    PEAR_ASSIGN(const std::string groups, window_in_sql(window.aggregate, keys, lines, scope_));
    add(name, groups);
    add(fmt::format("pear_lines_{}", windows_.size()),
        fmt::format("SELECT {}.*, {}.of_group AS {} FROM {} JOIN {} ON {}", lines, name,
                    name_in_sql(view, view.find(window.name)), lines, name,
                    same.empty() ? "TRUE" : join(same, " AND ")));
    return {};
  }

  [[nodiscard]] OrError<std::string> condition_of(const analysis::Selection& selection, Date data_end) const {
    std::vector<std::string> parts;
    if (selection.where) {
      const auto where = sql_of(selection.where->root, {scope_.dialect, scope_.schema.schema()});
      if (!where) return tl::unexpected(Error{where.error().kind, "--where: " + where.error().message});
      parts.push_back(*where);
    }
    PEAR_ASSIGN(const analysis::DaySpan days, analysis::days_of(selection, data_end));
    if (selection.from) parts.push_back("order_date >= " + scope_.dialect.date_literal(days.first));
    if (selection.to) parts.push_back("order_date <= " + scope_.dialect.date_literal(days.last));
    if (selection.returns == analysis::Returns::ignore) parts.emplace_back("NOT is_return");
    if (selection.quiet_since)
      parts.push_back(fmt::format("(last_order_date IS NULL OR last_order_date < {})",
                                  scope_.dialect.date_literal(selection.quiet_since->at(data_end).first)));
    return join(parts, " AND ");
  }

  const LineScope& scope_;
  std::string with_, last_;
  std::set<std::string> windows_;
};

}  // namespace

daybook::Daybook schema_of(const Warehouse& warehouse, const std::vector<std::string>& columns,
                           Date data_end) {
  daybook::DaybookParts parts;
  parts.order_offsets = parts.line_offsets = {0, 1};
  parts.products = 1;
  parts.line_products = {0};
  parts.data_end = data_end;
  for (TextArray* ids : {&parts.customer_ids, &parts.order_ids, &parts.product_ids}) ids->push_back("");
  const auto is_wanted = [&](std::string_view name) {
    return std::find(columns.begin(), columns.end(), name) != columns.end();
  };
  for (const WarehouseColumn& column : warehouse.columns)
    if (!is_id(column.name) &&
        (is_wanted(column.name) || column.name == role::kOrderDate || column.name == role::kOrderTime))
      parts.columns.push_back({column.name, column.level, empty_value(column.type)});
  const auto add = [&](std::string_view name, daybook::ColumnType type) {
    const bool is_there = std::any_of(parts.columns.begin(), parts.columns.end(),
                                      [&](const auto& each) { return each.name == name; });
    if (!is_there) parts.columns.push_back({std::string(name), daybook::Level::line, empty_value(type)});
  };
  add(role::kIsReturn, daybook::ColumnType::flag);
  if (warehouse.fees) add(role::kIsFee, daybook::ColumnType::flag);
  if (is_wanted(role::kAmount)) add(role::kAmount, daybook::ColumnType::decimal);
  return daybook::Daybook(std::move(parts));
}

OrError<std::string> with_lines(const LineScope& scope, const analysis::Selection& selection, Date data_end) {
  return Queries(scope).write(selection, data_end);
}

}  // namespace pear::pushdown
