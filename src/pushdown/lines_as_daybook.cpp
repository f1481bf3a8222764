#include "pushdown/lines_as_daybook.hpp"

#include <algorithm>
#include <numeric>
#include <tuple>
#include <utility>
#include <vector>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "base/date.hpp"
#include "base/pair_key.hpp"
#include "base/text.hpp"
#include "expression/evaluate/check.hpp"
#include "pushdown/answer_values.hpp"
#include "pushdown/sql_expression.hpp"

namespace pear::pushdown {
namespace {

namespace role = daybook::role;

/// Distinct ids in natural order, and the position of each row's.
struct Ids {
  TextArray texts;
  std::vector<std::uint32_t> of_row;
};

/// Sorts the rows of an answer, and nests them.
class Nester {
 public:
  Nester(const std::vector<daybook::Column>& columns, SqlRows rows)
      : columns_(columns), rows_(std::move(rows)), order_(rows_.size()) {}

  OrError<daybook::DaybookParts> nest() {
    PEAR_ASSIGN(customers_, ids_in(0));
    PEAR_ASSIGN(orders_, ids_in(1));
    PEAR_ASSIGN(products_, ids_in(2));
    PEAR_TRY(read_moments());
    sort();
    add_levels();
    for (std::size_t i = 0; i < columns_.size(); ++i) PEAR_TRY(add_column(i));
    return std::move(parts_);
  }

 private:
  static constexpr std::size_t kIds = 3;  ///< columns of ids, before the others

  [[nodiscard]] std::vector<SqlValue> cells(std::size_t column) const {
    std::vector<SqlValue> values;
    for (const auto& row : rows_) values.push_back(row[column]);
    return values;
  }

  [[nodiscard]] OrError<Ids> ids_in(std::size_t column) const {
    expression::GroupKey key;
    key.type = expression::ValueType::text;
    Ids ids;
    PEAR_ASSIGN(ids.of_row, code_values(cells(column), key));
    ids.texts = std::get<daybook::TextValues>(key.labels).dictionary;
    return ids;
  }

  /// An order whose lines have different dates keeps the earliest.
  OrError<void> read_moments() {
    std::vector<Moment> of_line(rows_.size());
    for (std::size_t i = 0; i < columns_.size(); ++i) {
      if (columns_[i].name != role::kOrderDate && columns_[i].name != role::kOrderTime) continue;
      PEAR_ASSIGN(const daybook::ColumnValues values,
                  column_of(expression::value_type(columns_[i].values), cells(kIds + i)));
      for (std::size_t row = 0; row < rows_.size(); ++row) {
        if (const auto* dates = std::get_if<daybook::DateValues>(&values))
          of_line[row].date.days = dates->days[row];
        else
          of_line[row].second_of_day = std::get<daybook::TimeValues>(values).seconds[row];
      }
    }
    absl::flat_hash_map<std::uint64_t, Moment> of_order;
    const auto key = [&](std::size_t row) { return pair_key(customers_.of_row[row], orders_.of_row[row]); };
    for (std::size_t row = 0; row < rows_.size(); ++row) {
      Moment& earliest = of_order.emplace(key(row), of_line[row]).first->second;
      earliest = std::min(earliest, of_line[row]);
    }
    for (std::size_t row = 0; row < rows_.size(); ++row) moments_.push_back(of_order.at(key(row)));
    return {};
  }

  void sort() {
    std::iota(order_.begin(), order_.end(), std::size_t{0});
    const auto place = [&](std::size_t row) {
      return std::tuple(customers_.of_row[row], moments_[row], orders_.of_row[row], products_.of_row[row]);
    };
    std::sort(order_.begin(), order_.end(), [&](std::size_t a, std::size_t b) {
      return place(a) != place(b) ? place(a) < place(b) : rows_[a] < rows_[b];
    });
  }

  void add_levels() {
    parts_.customer_ids = customers_.texts;
    parts_.product_ids = products_.texts;
    parts_.products = static_cast<std::uint32_t>(products_.texts.size());
    for (std::size_t i = 0; i < order_.size(); ++i) {
      const std::size_t row = order_[i];
      const bool is_new_customer = i == 0 || customers_.of_row[row] != customers_.of_row[order_[i - 1]];
      if (is_new_customer || orders_.of_row[row] != orders_.of_row[order_[i - 1]]) {
        if (is_new_customer && i > 0)
          parts_.order_offsets.push_back(static_cast<std::uint32_t>(parts_.order_ids.size()));
        if (i > 0) parts_.line_offsets.push_back(static_cast<std::uint32_t>(i));
        parts_.order_ids.push_back(orders_.texts[orders_.of_row[row]]);
        first_of_order_.push_back(row);
      }
      parts_.line_products.push_back(products_.of_row[row]);
    }
    if (order_.empty()) return;
    parts_.order_offsets.push_back(static_cast<std::uint32_t>(parts_.order_ids.size()));
    parts_.line_offsets.push_back(static_cast<std::uint32_t>(order_.size()));
  }

  /// The rows that the members of a level take their values from.
  [[nodiscard]] std::vector<std::size_t> rows_of(daybook::Level level) const {
    if (level == daybook::Level::line) return order_;
    if (level == daybook::Level::order) return first_of_order_;
    const Ids& ids = level == daybook::Level::customer ? customers_ : products_;
    std::vector<std::size_t> rows(ids.texts.size());
    for (const std::size_t row : order_) rows[ids.of_row[row]] = row;
    return rows;
  }

  OrError<void> add_column(std::size_t position) {
    const daybook::Column& column = columns_[position];
    std::vector<SqlValue> values;
    for (const std::size_t row : rows_of(column.level)) values.push_back(rows_[row][kIds + position]);
    if (column.type() == daybook::ColumnType::flag) {
      daybook::FlagValues flags;
      for (const SqlValue& value : values)
        flags.flags.push_back(value && (value->starts_with('t') || *value == "1") ? 1 : 0);
      parts_.columns.push_back({column.name, column.level, std::move(flags)});
      return {};
    }
    PEAR_ASSIGN(daybook::ColumnValues read, column_of(expression::value_type(column.values), values));
    if (column.name == role::kOrderDate && column.level == daybook::Level::order)
      for (std::size_t order = 0; order < first_of_order_.size(); ++order)
        std::get<daybook::DateValues>(read).days[order] = moments_[first_of_order_[order]].date.days;
    parts_.columns.push_back({column.name, column.level, std::move(read)});
    return {};
  }

  const std::vector<daybook::Column>& columns_;
  SqlRows rows_;
  std::vector<std::size_t> order_;  ///< rows in the order of lines
  std::vector<std::size_t> first_of_order_;
  std::vector<Moment> moments_;  ///< by row, of its order
  Ids customers_, orders_, products_;
  daybook::DaybookParts parts_;
};

}  // namespace

OrError<daybook::Daybook> lines_as_daybook(const SelectedLines& lines, const std::string& from) {
  const daybook::DaybookParts& schema = lines.scope.schema.daybook().parts();
  const expression::RowView& view = lines.scope.schema.schema();
  std::vector<std::string> selected = {"customer_id", "order_id", "product_id"}, names = selected;
  for (std::size_t i = 0; i < schema.columns.size(); ++i) {
    names.push_back(fmt::format("c{}", i));
    selected.push_back(fmt::format("{} AS c{}", name_in_sql(view, view.find(schema.columns[i].name)), i));
  }
  PEAR_ASSIGN(
      SqlRows rows,
      lines.session.rows(lines.with, fmt::format("SELECT {} FROM {}", join(selected, ", "), from), names));
  PEAR_ASSIGN(daybook::DaybookParts parts, Nester(schema.columns, std::move(rows)).nest());
  parts.data_end = schema.data_end;
  return daybook::Daybook(std::move(parts));
}

}  // namespace pear::pushdown
