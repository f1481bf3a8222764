#include "analysis/tables/customer_history.hpp"

#include <algorithm>
#include <string>
#include <utility>

#include <absl/container/flat_hash_set.h>

#include "analysis/tables/table_builder.hpp"
#include "daybook/purchases.hpp"

namespace pear::analysis {
namespace {

/// A column of the lines, empty if the daybook does not have it.
result::TableColumn line_column(const daybook::Daybook& daybook, std::string_view name, result::Unit unit,
                                std::string description, const std::vector<std::uint32_t>& lines) {
  const daybook::Column* column = daybook.find(name);
  if (column == nullptr || column->level != daybook::Level::line)
    return result::integer_column(std::string(name), unit, std::move(description),
                                  std::vector<std::int64_t>(lines.size(), result::kEmptyCell));
  result::TableColumn result =
      member_column(std::string(name), std::move(description), column->values, lines);
  result.unit = unit;
  return result;
}

/// Short headings, so that a whole line fits on a terminal; dates are shown once per order.
void shorten_headings(std::vector<result::TableColumn>& columns) {
  for (result::TableColumn& column : columns) {
    column.heading = column.name == "order_date"               ? "date"
                     : column.name == "order_id"               ? "order"
                     : column.name == "days_since"             ? "days"
                     : column.name == "product_id"             ? "product"
                     : column.name == "product_name"           ? "name"
                     : column.name == daybook::role::kQuantity ? "pieces"
                     : column.name == "price_paid"             ? "price"
                     : column.name == "running_amount"         ? "running"
                                                               : "";
    if (column.name == "days_since") column.always_shown = true;
  }
}

/// A row of the table.
struct HistoryRow {
  const HistoryLine& line;
  std::int64_t days_since = result::kEmptyCell;  ///< the order before
  std::int64_t running = 0;
};

std::vector<HistoryRow> rows_of(const daybook::Daybook& daybook, const CustomerHistory& history) {
  std::vector<HistoryRow> rows;
  DecimalSum so_far;
  for (const HistoryLine& line : history.lines) {
    const auto place = std::find(history.orders.begin(), history.orders.end(), line.place.order);
    const bool has_days = place != history.orders.end() && place != history.orders.begin();
    so_far.add(Decimal::from_units(daybook.amounts()[line.place.line]));
    rows.push_back({line,
                    has_days ? history.days[static_cast<std::size_t>(place - history.orders.begin()) - 1]
                             : result::kEmptyCell,
                    so_far.total().value_or(Decimal()).units()});
  }
  return rows;
}

}  // namespace

CustomerHistory history_of(const daybook::Daybook& daybook, std::uint32_t customer) {
  CustomerHistory history;
  history.customer = customer;
  const daybook::Purchases purchases(daybook);
  absl::flat_hash_set<std::uint32_t> bought,
      bought_before;  // lines of the same order are not repeat purchases
  std::uint32_t order = daybook::kNoMember;
  daybook::walk_lines(daybook, {customer, customer + 1}, [&](const daybook::LinePlace& place) {
    if (place.order != order) bought_before = bought;
    order = place.order;
    const Decimal amount = Decimal::from_units(daybook.amounts()[place.line]);
    history.amount.add(amount);
    if (purchases.is_return(place.line)) {
      ++history.returned_lines;
      history.returned.add(amount);
      history.lines.push_back({place, LineKind::returned});
      return;
    }
    if (purchases.is_fee(place.line)) {
      history.lines.push_back({place, LineKind::fee});
      return;
    }
    bought.insert(place.product);
    history.lines.push_back(
        {place, bought_before.contains(place.product) ? LineKind::again : LineKind::first_time});
  });
  history.products = static_cast<std::uint32_t>(bought.size());
  const daybook::Run run = daybook.orders_of(customer);
  for (std::uint32_t each = run.begin; each < run.end; ++each) {
    if (!purchases.is_order(each)) continue;
    if (!history.orders.empty())
      history.days.push_back(
          days_between(daybook.date_of_order(history.orders.back()), daybook.date_of_order(each)));
    history.orders.push_back(each);
  }
  return history;
}

result::Table history_table(const daybook::Daybook& daybook, const CustomerHistory& history) {
  const std::vector<HistoryRow> rows = rows_of(daybook, history);
  result::Table table{"", "History", "One row for each line, in order of time.", {}};
  TableBuilder builder(table, rows);
  const auto line = [](const HistoryRow& row) { return row.line.place.line; };
  const auto product = [](const HistoryRow& row) { return row.line.place.product; };
  const std::vector<std::uint32_t> lines = builder.codes(line);
  builder
      .date("order_date", "Date of the order.",
            [&](const HistoryRow& row) { return daybook.date_of_order(row.line.place.order).days; })
      .always_shown = true;
  builder
      .text("order_id", "The order.",
            [&](const HistoryRow& row) { return daybook.order_ids()[row.line.place.order]; })
      .always_shown = true;
  builder.days("days_since", "Days since the previous order.",
               [](const HistoryRow& row) { return row.days_since; });
  const expression::GroupKey key = id_key(daybook, daybook::Level::product);
  builder.key("product_id", "The product.", key, product).always_shown = false;
  builder.names(daybook, key, product);
  builder.text("kind", "new: the customer had not bought this product before; again; return; or fee.",
               [](const HistoryRow& row) {
                 const LineKind kind = row.line.kind;
                 return kind == LineKind::first_time ? "new"
                        : kind == LineKind::again    ? "again"
                        : kind == LineKind::fee      ? "fee"
                                                     : "return";
               });
  builder.add(line_column(daybook, daybook::role::kQuantity, result::Unit::number,
                          "Pieces; negative for a return.", lines));
  const daybook::Column* pieces = daybook.find(daybook::role::kQuantity);
  builder.money("price_paid", "Price paid per piece: amount / quantity.", [&](const HistoryRow& row) {
    const std::uint32_t at = line(row);
    const std::int64_t quantity =
        pieces == nullptr ? 0 : std::get<daybook::DecimalValues>(pieces->values).units[at];
    const auto price = quantity <= 0 ? std::nullopt
                                     : price_of_piece(Decimal::from_units(daybook.amounts()[at]),
                                                      Decimal::from_units(quantity));
    return price ? price->units() : result::kEmptyCell;
  });
  builder.add(
      line_column(daybook, daybook::role::kAmount, result::Unit::money, "Amount of the line.", lines));
  builder.money("running_amount", "Amount of this line and all lines above it.",
                [](const HistoryRow& row) { return row.running; });
  builder.add(line_column(daybook, daybook::role::kUnitPrice, result::Unit::money,
                          "Price of a piece before discounts.", lines));
  shorten_headings(table.columns);
  return table;
}

}  // namespace pear::analysis
