#include "intake/join/joined_lines.hpp"

#include <algorithm>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/daybook.hpp"
#include "intake/clean/leave_out_rows.hpp"
#include "intake/join/fill_empty.hpp"

namespace pear::intake {
namespace {

/// Each line has at most one row of these; prices are looked up instead.
constexpr TableKind kJoined[] = {TableKind::lines, TableKind::orders, TableKind::products,
                                 TableKind::customers};

template <class T>
void compact(std::vector<T>& values, const std::vector<std::uint8_t>& stays) {
  std::size_t to = 0;
  for (std::size_t row = 0; row < values.size(); ++row) {
    if (stays[row] != 0) values[to++] = values[row];
  }
  values.resize(to);
}

}  // namespace

OrError<JoinedLines> JoinedLines::make(const IntakePlan& plan, Tables tables, IntakeLog& log) {
  JoinedLines joined(std::move(tables));
  if (joined.table(TableKind::orders)) {
    PEAR_TRY(joined.join(plan, TableKind::lines, TableKind::orders, std::string(daybook::role::kOrderId)));
    const auto& rows = joined.rows_of_[static_cast<std::size_t>(TableKind::orders)];
    joined.fill_from_orders();
    std::vector<std::uint8_t> stays(rows.size());
    for (std::size_t row = 0; row < rows.size(); ++row)
      stays[row] = rows[row] != daybook::kNoMember || joined.has_order_data(row) ? 1 : 0;
    joined.reject_lines(stays, std::string(daybook::role::kOrderId), "has no row in orders", log);
  }
  if (joined.table(TableKind::products))
    PEAR_TRY(
        joined.join(plan, TableKind::lines, TableKind::products, std::string(daybook::role::kProductId)));
  if (joined.table(TableKind::customers)) PEAR_TRY(joined.join_customers(plan));
  return joined;
}

void JoinedLines::fill_from_orders() {
  RawTable& orders = *tables_[static_cast<std::size_t>(TableKind::orders)];
  const auto& rows = rows_of_[static_cast<std::size_t>(TableKind::orders)];
  for (const std::string_view name : {daybook::role::kOrderDate, daybook::role::kOrderTime,
                                      daybook::role::kCustomerId, daybook::role::kCurrency}) {
    RawColumn* ours = lines().find(name);
    const RawColumn* theirs = orders.find(name);
    if (ours == nullptr || theirs == nullptr || ours->values.index() != theirs->values.index()) continue;
    if (fill_empty(ours->values, theirs->values, rows) > 0)
      hidden_.emplace_back(TableKind::orders, std::string(name));
  }
}

bool JoinedLines::has_order_data(std::size_t line) const {
  const RawColumn* customers = lines().find(daybook::role::kCustomerId);
  const RawColumn* dates = lines().find(daybook::role::kOrderDate);
  return customers != nullptr && dates != nullptr && !daybook::value_text(customers->values, line).empty() &&
         !daybook::value_text(dates->values, line).empty();
}

OrError<void> JoinedLines::join(const IntakePlan& plan, TableKind many, TableKind one,
                                const std::string& key) {
  const auto given = plan.joins.find({many, one});
  const JoinKeys keys = given == plan.joins.end() ? JoinKeys{{key, key}} : given->second;
  PEAR_ASSIGN(Join found, join_tables(*table(many), *table(one), keys));
  for (const auto& [ours, theirs] : keys) {
    if (ours == theirs) hidden_.emplace_back(one, theirs);
  }
  rows_of_[static_cast<std::size_t>(one)] = std::move(found.row_of);
  joins_.push_back(std::move(found));
  return {};
}

/// Customers are joined to orders, or to lines if there are no orders or the lines have the customer.
OrError<void> JoinedLines::join_customers(const IntakePlan& plan) {
  const bool of_orders = table(TableKind::orders) &&
                         !plan.joins.contains({TableKind::lines, TableKind::customers}) &&
                         lines().find(daybook::role::kCustomerId) == nullptr;
  PEAR_TRY(join(plan, of_orders ? TableKind::orders : TableKind::lines, TableKind::customers,
                std::string(daybook::role::kCustomerId)));
  if (!of_orders) return {};
  auto& customers = rows_of_[static_cast<std::size_t>(TableKind::customers)];
  const auto& orders = rows_of_[static_cast<std::size_t>(TableKind::orders)];
  std::vector<std::uint32_t> by_line(orders.size());
  for (std::size_t line = 0; line < orders.size(); ++line) by_line[line] = customers[orders[line]];
  customers = std::move(by_line);
  return {};
}

std::vector<JoinedColumn> JoinedLines::columns() {
  std::vector<JoinedColumn> columns;
  std::set<std::string> taken;
  for (const TableKind kind : kJoined) {
    auto& table = tables_[static_cast<std::size_t>(kind)];
    if (!table) continue;
    for (RawColumn& column : table->columns) {
      if (std::find(hidden_.begin(), hidden_.end(), std::pair(kind, column.name)) != hidden_.end()) continue;
      std::string name = column.name;
      if (taken.contains(name)) name = fmt::format("{}_{}", singular(kind), column.name);
      while (taken.contains(name)) name += "_2";
      taken.insert(name);
      columns.push_back({std::move(name), kind, &column});
    }
  }
  return columns;
}

const std::vector<std::uint32_t>* JoinedLines::rows_of(TableKind kind) const {
  return kind == TableKind::lines ? nullptr : &rows_of_[static_cast<std::size_t>(kind)];
}

expression::RowView JoinedLines::view() {
  expression::RowView view;
  view.rows = lines().rows();
  for (const JoinedColumn& column : columns())
    view.columns.push_back({column.name, &column.column->values, rows_of(column.table)});
  return view;
}

void JoinedLines::add_column(const JoinedColumn& from, std::string name, daybook::ColumnValues values) {
  tables_[static_cast<std::size_t>(from.table)]->columns.push_back({name, name, std::move(values)});
}

void JoinedLines::set_list_prices(std::vector<std::int64_t> units, Join found) {
  const std::string name(daybook::role::kListPrice);
  if (RawColumn* own = lines().find(name))
    own->values = daybook::DecimalValues{std::move(units)};
  else
    lines().columns.push_back({name, name, daybook::DecimalValues{std::move(units)}});
  hidden_.emplace_back(TableKind::products, name);
  joins_.push_back(std::move(found));
}

void JoinedLines::reject_lines(const std::vector<std::uint8_t>& stays, const std::string& column,
                               const std::string& reason, IntakeLog& log) {
  reject_rows(lines(), stays, column, reason, log);
  keep(stays);
}

void JoinedLines::exclude_lines(const std::vector<std::uint8_t>& stays, const std::string& reason,
                                IntakeLog& log) {
  exclude_rows(lines(), stays, reason, log);
  keep(stays);
}

void JoinedLines::sample_lines(const std::vector<std::uint8_t>& stays, const std::string& reason,
                               IntakeLog& log) {
  tally_out_rows(lines(), stays, reason, log);
  keep(stays);
}

void JoinedLines::keep(const std::vector<std::uint8_t>& stays) {
  if (std::find(stays.begin(), stays.end(), 0) == stays.end()) return;
  for (auto& rows : rows_of_) {
    if (!rows.empty()) compact(rows, stays);
  }
}

}  // namespace pear::intake
