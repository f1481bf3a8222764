#include "pushdown/members_in_sql.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/find_member.hpp"
#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "expression/evaluate/check.hpp"
#include "pushdown/answer_values.hpp"

namespace pear::pushdown {
namespace {

/// Reads the ids, and the columns of their level.
OrError<TextArray> read_members(const SelectedLines& lines, daybook::Level level, const std::string& from,
                                daybook::DaybookParts& parts) {
  const std::string id = id_key(level).sql;
  std::vector<std::string> names = {id}, values = {id};
  std::vector<const daybook::Column*> columns;
  for (const daybook::Column& column : lines.scope.schema.daybook().parts().columns) {
    if (column.level != level || column.type() == daybook::ColumnType::flag) continue;
    columns.push_back(&column);
    names.push_back(column_in_sql(column.name));
    values.push_back(fmt::format("MAX({0}) AS {0}", column_in_sql(column.name)));
  }
  // First by customer, where the customer's lines are.
  PEAR_ASSIGN(SqlRows rows, lines.session.rows(
                                lines.with,
                                fmt::format("SELECT {0} FROM (SELECT {0} FROM {2} GROUP BY customer_id, {1}) "
                                            "AS pear_customers GROUP BY {1}",
                                            join(values, ", "), id, from),
                                names));
  std::sort(rows.begin(), rows.end(),
            [](const auto& a, const auto& b) { return natural_compare(*a[0], *b[0]) < 0; });
  TextArray ids;
  for (const auto& row : rows) ids.push_back(*row[0]);
  for (std::size_t i = 0; i < columns.size(); ++i) {
    std::vector<SqlValue> of_column;
    for (auto& row : rows) of_column.push_back(std::move(row[i + 1]));
    PEAR_ASSIGN(daybook::ColumnValues column,
                column_of(expression::value_type(columns[i]->values), of_column));
    parts.columns.push_back({columns[i]->name, level, std::move(column)});
  }
  return ids;
}

}  // namespace

OrError<daybook::Daybook> members_of(const SelectedLines& lines, bool customers, bool products,
                                     const std::string& from) {
  daybook::DaybookParts parts;
  parts.data_end = lines.scope.schema.daybook().parts().data_end;
  // Of members that are not read there is one without values, so that expressions over their columns are
  // still checked.
  const daybook::DaybookParts& schema = lines.scope.schema.daybook().parts();
  for (const daybook::Column& column : schema.columns)
    if ((column.level == daybook::Level::customer && !customers) ||
        (column.level == daybook::Level::product && !products))
      parts.columns.push_back(column);
  parts.order_offsets = {0, 0};
  parts.customer_ids.push_back("");
  parts.product_ids.push_back("");
  parts.products = 1;
  if (customers) {
    PEAR_ASSIGN(parts.customer_ids, read_members(lines, daybook::Level::customer, from, parts));
    parts.order_offsets.assign(parts.customer_ids.size() + 1, 0);
  }
  if (products) {
    PEAR_ASSIGN(parts.product_ids, read_members(lines, daybook::Level::product, from, parts));
    parts.products = static_cast<std::uint32_t>(parts.product_ids.size());
  }
  return daybook::Daybook(std::move(parts));
}

OrError<std::string> find_product(const SelectedLines& lines, const std::string& text) {
  PEAR_ASSIGN(const daybook::Daybook all, members_of(lines, false, true, "pear_all_lines"));
  if (lines.session.explains()) return text;
  PEAR_ASSIGN(const std::uint32_t product, analysis::find_one(all, daybook::Level::product, text));
  return std::string(all.product_ids()[product]);
}

}  // namespace pear::pushdown
