#include "pushdown/questions/order_counter.hpp"

#include <span>

#include <fmt/format.h>

namespace pear::pushdown {
namespace {

void add(std::vector<std::uint64_t>& tallies, std::int64_t value, std::uint64_t count) {
  const auto place = static_cast<std::size_t>(value);
  if (tallies.size() <= place) tallies.resize(place + 1);
  tallies[place] += count;
}

}  // namespace

OrderCounter::OrderCounter(const frequency::Options& options, const GroupReader& reader, Date data_end)
    : options_(options),
      reader_(reader),
      keys_(reader.names()),
      data_end_(reader.dialect().date_literal(data_end)) {}

OrError<void> OrderCounter::count_customers(frequency::Counts& counts) {
  const std::string by_customer = fmt::format(
      "SELECT {0}customer_id, COUNT(*) AS number FROM ({1}) AS pear_counted GROUP BY {0}customer_id", keys_,
      counted());
  return read(fmt::format("SELECT {0}number, COUNT(*) AS n FROM ({1}) AS pear_customers GROUP BY {0}number",
                          keys_, by_customer),
              [&](std::uint32_t group, std::int64_t number, std::uint64_t customers) {
                frequency::OrderFacts& facts = counts.orders.groups[group];
                facts.customers += customers;
                facts.orders += customers * static_cast<std::uint64_t>(number);
                if (number > 1) facts.ordered_again += customers;
                if (options_.count) return;
                numbers_.emplace(std::pair(group, number), counts.values.values.size());
                counts.values.values.push_back(number);
                counts.values.weights.push_back(customers);
                counts.groups.of_customer.push_back(group);
              });
}

OrError<void> OrderCounter::count_values(const SelectedLines& lines, frequency::Counts& counts) {
  PEAR_ASSIGN(const expression::GroupedExpression figure,
              frequency::counted_figure(options_, lines.scope.schema));
  std::vector<SqlKey> keys = reader_.keys();
  keys.push_back(id_key(daybook::Level::customer));
  PEAR_ASSIGN(const GroupedLines grouped, group_lines(lines, keys, {figure}, counted_lines()));
  const expression::Values& values = grouped.figures.front();
  for (const auto& [of, customer] : grouped.group_of) {
    const bool is_filled = values.states[customer] == expression::ValueState::filled;
    if (!is_filled) ++counts.values.without_value;
    if (options_.list) counts_of_.emplace(*of.back(), counts.values.values.size());
    counts.values.values.push_back(is_filled ? values.numbers[customer] : result::kEmptyCell);
    counts.groups.of_customer.push_back(reader_.group_of(std::span(of).first(of.size() - 1)));
  }
  frequency::set_unit(figure, options_, counts.values);
  return {};
}

OrError<void> OrderCounter::count_days(std::vector<frequency::OrderFacts>& groups) const {
  const std::string gaps = fmt::format(
      "SELECT {}customer_id, number FROM ({}) AS pear_gaps WHERE number IS NOT NULL", keys_, with_gaps());
  PEAR_TRY(read(fmt::format("SELECT {0}number, COUNT(*) AS n FROM ({1}) AS pear_between GROUP BY {0}number",
                            keys_, gaps),
                [&](std::uint32_t group, std::int64_t days, std::uint64_t orders) {
                  add(groups[group].days_between, days, orders);
                }));
  const std::string in_order = fmt::format(
      "SELECT {0}number, ROW_NUMBER() OVER (PARTITION BY customer_id ORDER BY number) AS place, COUNT(*) "
      "OVER (PARTITION BY customer_id) "
      "AS gaps FROM ({1}) AS pear_between",
      keys_, gaps);
  return read(fmt::format("SELECT {0}number, COUNT(*) AS n FROM ({1}) AS pear_in_order WHERE place = (gaps "
                          "+ 1) / 2 GROUP BY {0}number",
                          keys_, in_order),
              [&](std::uint32_t group, std::int64_t days, std::uint64_t customers) {
                add(groups[group].typical_days, days, customers);
              });
}

OrError<std::uint64_t> OrderCounter::incomplete() const {
  if (!options_.within) return std::uint64_t{0};
  return reader_.number(
      fmt::format("SELECT COUNT(DISTINCT customer_id) AS n FROM ({}) AS pear_orders WHERE NOT ({})",
                  with_first_days(), is_complete()));
}

std::optional<std::size_t> OrderCounter::entry_of(std::uint32_t group, std::int64_t orders,
                                                  const std::string& customer) const {
  if (options_.count) {
    const auto found = counts_of_.find(customer);
    return found == counts_of_.end() ? std::nullopt : std::optional(found->second);
  }
  const auto found = numbers_.find({group, orders});
  return found == numbers_.end() ? std::nullopt : std::optional(found->second);
}

std::string OrderCounter::is_counted() const {
  if (!options_.within) return "1 = 1";
  return fmt::format("{} < {}{}", reader_.dialect().days_between("on_day", "first_day"), *options_.within,
                     options_.include_incomplete ? "" : " AND " + is_complete());
}

std::string OrderCounter::with_first_days() const {
  const std::string orders = fmt::format(
      "SELECT {0}customer_id, order_id, MIN(order_date) AS on_day FROM (SELECT {1}customer_id, order_id, "
      "order_date FROM pear_lines WHERE NOT "
      "is_return) AS pear_purchases GROUP BY {0}customer_id, order_id",
      keys_, reader_.definitions());
  return fmt::format(
      "SELECT pear_orders.*, MIN(on_day) OVER (PARTITION BY customer_id) AS first_day FROM ({}) AS "
      "pear_orders",
      orders);
}

std::string OrderCounter::counted_lines() const {
  std::string condition = "first_day IS NOT NULL";
  if (options_.within) {
    condition += fmt::format(" AND order_date >= first_day AND {} < {}",
                             reader_.dialect().days_between("order_date", "first_day"), *options_.within);
    if (!options_.include_incomplete) condition += " AND " + is_complete();
  }
  return fmt::format("(SELECT * FROM ({}) AS pear_lines WHERE {}) AS pear_lines", pushdown::with_first_days(),
                     condition);
}

std::string OrderCounter::is_complete() const {
  return fmt::format("{} >= {} - 1", reader_.dialect().days_between(data_end_, "first_day"),
                     *options_.within);
}

std::string OrderCounter::counted() const {
  if (!options_.within) return with_first_days();
  return fmt::format("SELECT * FROM ({}) AS pear_orders WHERE {}", with_first_days(), is_counted());
}

std::string OrderCounter::with_gaps() const {
  return fmt::format(
      "SELECT {0}customer_id, {1} AS number FROM ({2}) AS pear_counted", keys_,
      reader_.dialect().days_between("on_day", "LAG(on_day) OVER (PARTITION BY customer_id ORDER BY on_day)"),
      counted());
}

}  // namespace pear::pushdown
