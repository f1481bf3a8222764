#include "pushdown/basket_items.hpp"

#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::pushdown {
namespace {

using Within = mining::BasketRule::Within;

bool has_margin(const SelectedLines& lines) { return lines.scope.schema.daybook().find("margin") != nullptr; }

}  // namespace

OrError<std::uint32_t> Items::code_of(const std::string& text) const {
  const auto found = codes.find(text);
  if (found == codes.end())
    return data_error(fmt::format("the database answered {}, which no line has.", in_quotes(text)));
  return found->second;
}

OrError<SqlKey> item_key(const std::optional<expression::Tree>& items, const SelectedLines& lines) {
  if (!items) return id_key(daybook::Level::product);
  PEAR_ASSIGN(std::vector<SqlKey> keys, keys_of("count", {*items}, lines));
  return std::move(keys.front());
}

OrError<Items> read_items(const SqlKey& key, const SelectedLines& lines) {
  PEAR_ASSIGN(const GroupedLines grouped, group_lines(lines, {key}, {}));
  Items items{grouped.keys.front(), {}};
  for (const auto& [values, group] : grouped.group_of)
    if (values.front()) items.codes.emplace(*values.front(), grouped.codes.front()[group]);
  return items;
}

OrError<void> check_rule(const mining::BasketRule& rule) {
  if (rule.within != Within::days) return {};
  return usage_error(
      "--basket: a database forms baskets of an order, a day or a customer. Import the lines to join orders "
      "by "
      "the days between them.");
}

std::string with_items(const mining::BasketRule& rule, const SqlKey& item, const SelectedLines& lines) {
  const char* basket = rule.within == Within::order ? "order_id"
                       : rule.within == Within::day ? "order_date"
                                                    : "1";
  const std::string purchases = fmt::format(
      "SELECT customer_id, {} AS basket, {} AS item, order_date, amount, {} AS margin FROM pear_lines WHERE "
      "NOT is_return{}",
      basket, item.sql, has_margin(lines) ? "margin" : "CAST(NULL AS BIGINT)",
      lines.scope.warehouse.fees ? " AND NOT is_fee" : "");
  std::string with = lines.with;
  with.insert(
      with.size() - 1,
      fmt::format(
          ",\npear_items AS (SELECT customer_id, basket, item, MIN(order_date) AS on_day, SUM(amount) AS "
          "amount, COALESCE(SUM(margin), 0) AS margin, COALESCE(SUM(CASE WHEN margin IS NOT NULL THEN "
          "amount END), 0) AS known FROM ({}) AS pear_purchases WHERE item IS NOT NULL GROUP BY "
          "customer_id, basket, item)",
          purchases));
  return with;
}

OrError<bool> knows_margins(const SelectedLines& lines) {
  if (!has_margin(lines)) return false;
  PEAR_ASSIGN(const SqlRows known,
              lines.session.rows(lines.with, "SELECT COUNT(margin) AS n FROM pear_lines", {"n"}));
  return !known.empty() && known[0][0] != "0";
}

}  // namespace pear::pushdown
