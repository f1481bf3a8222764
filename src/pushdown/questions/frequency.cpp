#include "pushdown/questions/frequency.hpp"

#include <utility>

#include <fmt/format.h>

#include "pushdown/group_reader.hpp"
#include "questions/frequency/question.hpp"

namespace pear::pushdown {
namespace {

void add(std::vector<std::uint64_t>& tallies, std::int64_t value, std::uint64_t count) {
  const auto place = static_cast<std::size_t>(value);
  if (tallies.size() <= place) tallies.resize(place + 1);
  tallies[place] += count;
}

/// Counts the orders of customers in groups.
class OrderCounter {
 public:
  OrderCounter(const frequency::Options& options, const GroupReader& reader, Date data_end)
      : options_(options),
        reader_(reader),
        keys_(reader.names()),
        data_end_(reader.dialect().date_literal(data_end)) {}

  /// Customers by group and number of orders: an entry for each pair of them.
  OrError<void> count_customers(frequency::Counts& counts) const {
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
                  counts.values.values.push_back(number);
                  counts.values.weights.push_back(customers);
                  counts.groups.of_customer.push_back(group);
                });
  }

  /// The figure of --count, of the lines that count: a row for each customer.
  OrError<void> count_values(const SelectedLines& lines, frequency::Counts& counts) const {
    PEAR_ASSIGN(const expression::GroupedExpression figure,
                frequency::counted_figure(options_, lines.scope.schema));
    std::vector<SqlKey> keys = reader_.keys();
    keys.push_back(id_key(daybook::Level::customer));
    PEAR_ASSIGN(const GroupedLines grouped, group_lines(lines, keys, {figure}, counted_lines()));
    const expression::Values& values = grouped.figures.front();
    for (const auto& [of, customer] : grouped.group_of) {
      const bool is_filled = values.states[customer] == expression::ValueState::filled;
      if (!is_filled) ++counts.values.without_value;
      counts.values.values.push_back(is_filled ? values.numbers[customer] : result::kEmptyCell);
      counts.groups.of_customer.push_back(reader_.group_of(std::span(of).first(of.size() - 1)));
    }
    frequency::set_unit(figure, options_, counts.values);
    return {};
  }

  /// The days between orders, and their median by customer: the smallest that at least half of them do not
  /// exceed.
  OrError<void> count_days(std::vector<frequency::OrderFacts>& groups) const {
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

  /// Customers whose window is not over.
  [[nodiscard]] OrError<std::uint64_t> incomplete() const {
    if (!options_.within) return std::uint64_t{0};
    return reader_.number(
        fmt::format("SELECT COUNT(DISTINCT customer_id) AS n FROM ({}) AS pear_orders WHERE NOT ({})",
                    with_first_days(), is_complete()));
  }

 private:
  /// Each order on its day.
  [[nodiscard]] std::string with_first_days() const {
    const std::string orders = fmt::format(
        "SELECT {0}customer_id, order_id, MIN(order_date) AS day FROM (SELECT {1}customer_id, order_id, "
        "order_date FROM pear_lines WHERE NOT "
        "is_return) AS pear_purchases GROUP BY {0}customer_id, order_id",
        keys_, reader_.definitions());
    return fmt::format(
        "SELECT pear_orders.*, MIN(day) OVER (PARTITION BY customer_id) AS first_day FROM ({}) AS "
        "pear_orders",
        orders);
  }

  /// The lines within the windows of the customers that count.
  [[nodiscard]] std::string counted_lines() const {
    std::string condition = "first_day IS NOT NULL";
    if (options_.within) {
      condition += fmt::format(" AND order_date >= first_day AND {} < {}",
                               reader_.dialect().days_between("order_date", "first_day"), *options_.within);
      if (!options_.include_incomplete) condition += " AND " + is_complete();
    }
    return fmt::format("(SELECT * FROM ({}) AS pear_lines WHERE {}) AS pear_lines",
                       pushdown::with_first_days(), condition);
  }

  [[nodiscard]] std::string is_complete() const {
    return fmt::format("{} >= {} - 1", reader_.dialect().days_between(data_end_, "first_day"),
                       *options_.within);
  }

  /// The orders that count.
  [[nodiscard]] std::string counted() const {
    if (!options_.within) return with_first_days();
    return fmt::format("SELECT * FROM ({}) AS pear_orders WHERE {} < {}{}", with_first_days(),
                       reader_.dialect().days_between("day", "first_day"), *options_.within,
                       options_.include_incomplete ? "" : " AND " + is_complete());
  }

  [[nodiscard]] std::string with_gaps() const {
    return fmt::format(
        "SELECT {0}customer_id, {1} AS number FROM ({2}) AS pear_counted", keys_,
        reader_.dialect().days_between("day", "LAG(day) OVER (PARTITION BY customer_id ORDER BY day)"),
        counted());
  }

  /// use(group, number, n) for each row.
  template <class UseNumbers>
  OrError<void> read(const std::string& select, UseNumbers use) const {
    return reader_.read(select, {"number", "n"},
                        [&](std::uint32_t group, std::span<const SqlValue> values) -> OrError<void> {
                          PEAR_ASSIGN(const std::int64_t number, whole64(values[0]));
                          PEAR_ASSIGN(const std::int64_t n, whole64(values[1]));
                          use(group, number, static_cast<std::uint64_t>(n));
                          return {};
                        });
  }

  const frequency::Options& options_;
  const GroupReader& reader_;
  const std::string& keys_;
  std::string data_end_;
};

}  // namespace

OrError<result::Result> answer_frequency(const analysis::OptionValues& values, const SelectedLines& lines,
                                         const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const frequency::Options options, frequency::read_options(values));
  if (options.list)
    return usage_error(
        "--list needs each customer's history, which stays in the database. Import the lines, or leave it "
        "out.");
  PEAR_ASSIGN(const GroupReader reader, GroupReader::read_groups("by", options.by, lines));
  frequency::Counts counts{options, input.daybook, reader.groups(), {}, {}, {}, {}, false};
  counts.orders.groups.resize(counts.groups.count);
  const OrderCounter counter(options, reader, input.data_end);
  PEAR_TRY(counter.count_customers(counts));
  if (options.count) PEAR_TRY(counter.count_values(lines, counts));
  PEAR_TRY(counter.count_days(counts.orders.groups));
  PEAR_ASSIGN(counts.orders.without_order, reader.customers_without_order());
  PEAR_ASSIGN(counts.orders.incomplete, counter.incomplete());
  PEAR_ASSIGN(counts.distribution, frequency::distribute(counts.values, options, counts.groups));
  if (lines.session.explains()) return result::Result{};
  return frequency::result_of(counts, input);
}

}  // namespace pear::pushdown
