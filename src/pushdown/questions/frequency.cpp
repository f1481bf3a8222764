#include "pushdown/questions/frequency.hpp"

#include <algorithm>
#include <map>
#include <optional>
#include <utility>

#include <absl/container/flat_hash_map.h>
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
  OrError<void> count_customers(frequency::Counts& counts) {
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

  /// The figure of --count, of the lines that count: a row for each customer.
  OrError<void> count_values(const SelectedLines& lines, frequency::Counts& counts) {
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

  /// The entry of the counts' values for a customer, by their group and number of orders or by their id;
  /// nothing for one who is not counted.
  [[nodiscard]] std::optional<std::size_t> entry_of(std::uint32_t group, std::int64_t orders,
                                                    const std::string& customer) const {
    if (options_.count) {
      const auto found = counts_of_.find(customer);
      return found == counts_of_.end() ? std::nullopt : std::optional(found->second);
    }
    const auto found = numbers_.find({group, orders});
    return found == numbers_.end() ? std::nullopt : std::optional(found->second);
  }

  /// Whether an order is counted.
  [[nodiscard]] std::string is_counted() const {
    if (!options_.within) return "1 = 1";
    return fmt::format("{} < {}{}", reader_.dialect().days_between("day", "first_day"), *options_.within,
                       options_.include_incomplete ? "" : " AND " + is_complete());
  }

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

 private:
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
    return fmt::format("SELECT * FROM ({}) AS pear_orders WHERE {}", with_first_days(), is_counted());
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
  std::map<std::pair<std::uint32_t, std::int64_t>, std::size_t> numbers_;  ///< by group and number of orders
  absl::flat_hash_map<std::string, std::size_t> counts_of_;                ///< by customer, with --count
};

/// Lists each customer, and who is going quiet.
class CustomerLister {
 public:
  CustomerLister(const frequency::Options& options, const OrderCounter& counter, const GroupReader& reader,
                 const SelectedLines& lines, const analysis::QuestionInput& input)
      : options_(options),
        counter_(counter),
        reader_(reader),
        dialect_(reader.dialect()),
        lines_(lines),
        input_(input) {
    const TextArray& ids = input.daybook.customer_ids();
    for (std::uint32_t code = 0; code < ids.size(); ++code) codes_.emplace(std::string(ids[code]), code);
  }

  OrError<void> list(frequency::Counts& counts) {
    PEAR_TRY(read_customers(counts));
    if (!options_.within) PEAR_TRY(find_quiet(counts));
    std::sort(counts.listed.begin(), counts.listed.end(),
              [](const auto& a, const auto& b) { return a.customer < b.customer; });
    frequency::sort_listed(counts);
    return {};
  }

 private:
  OrError<void> read_customers(frequency::Counts& counts) {
    const std::string select = fmt::format(
        "SELECT {0}customer_id, first_day, MAX(day) AS last_day, COUNT(*) AS orders, COUNT(CASE WHEN {1} "
        "THEN 1 END) "
        "AS number FROM ({2}) AS pear_orders GROUP BY {0}customer_id, first_day",
        reader_.names(), counter_.is_counted(), counter_.with_first_days());
    return reader_.read(
        select, {"customer_id", "first_day", "last_day", "orders", "number"},
        [&](std::uint32_t group, std::span<const SqlValue> values) -> OrError<void> {
          frequency::ListedCustomer listed;
          listed.customer = codes_.at(*values[0]);
          listed.group = group;
          PEAR_ASSIGN(listed.first.days, day(*values[1]));
          PEAR_ASSIGN(listed.last.days, day(*values[2]));
          PEAR_ASSIGN(const std::int64_t orders, whole64(values[3]));
          PEAR_ASSIGN(const std::int64_t number, whole64(values[4]));
          customers_.push_back({listed.customer, listed.first.days, listed.last.days, orders});
          const auto entry = counter_.entry_of(group, number, *values[0]);
          if (!entry || counts.distribution.place_of[*entry] == daybook::kNoMember) return {};
          listed.place = counts.distribution.place_of[*entry];
          listed.orders = static_cast<std::uint32_t>(number);
          listed.value = counts.values.values[*entry];
          counts.listed.push_back(listed);
          return {};
        });
  }

  OrError<void> find_quiet(frequency::Counts& counts) const {
    std::vector<frequency::QuietCustomer> customers(input_.daybook.customers());
    std::int32_t first = input_.data_end.days;
    for (const OrdersOf& of : customers_) {
      customers[of.customer].orders = static_cast<std::uint32_t>(of.orders);
      customers[of.customer].silent_days = input_.data_end.days - of.last;
      first = std::min(first, of.first);
    }
    PEAR_TRY(read_medians(customers));
    PEAR_TRY(read_amounts(customers));
    std::vector<frequency::WaitingTimes> times =
        frequency::no_waiting_times(static_cast<std::size_t>(input_.data_end.days - first));
    PEAR_TRY(read_waiting_times(times));
    counts.quiet = frequency::quiet_customers_of(std::move(times), std::move(customers), options_.horizon);
    return {};
  }

  OrError<void> read_medians(std::vector<frequency::QuietCustomer>& customers) const {
    const std::string in_order = fmt::format(
        "SELECT customer_id, days, ROW_NUMBER() OVER (PARTITION BY customer_id ORDER BY days) AS place, "
        "COUNT(*) "
        "OVER (PARTITION BY customer_id) AS gaps FROM ({}) AS pear_waits WHERE is_last = 0",
        waits());
    return read(
        fmt::format("SELECT customer_id, days FROM ({}) AS pear_in_order WHERE place = (gaps + 1) / 2",
                    in_order),
        {"customer_id", "days"}, [&](const std::vector<SqlValue>& row) -> OrError<void> {
          PEAR_ASSIGN(const std::int64_t days, whole64(row[1]));
          customers[codes_.at(*row[0])].median_days = days;
          return {};
        });
  }

  /// Of the year before each customer's last order, and of returns after it.
  OrError<void> read_amounts(std::vector<frequency::QuietCustomer>& customers) const {
    const std::string dated =
        "SELECT customer_id, order_date, amount, MAX(CASE WHEN NOT is_return THEN order_date END) OVER "
        "(PARTITION BY "
        "customer_id) AS last_day FROM pear_lines";
    return read(
        fmt::format("SELECT customer_id, SUM(amount) AS amount FROM ({}) AS pear_dated WHERE last_day IS NOT "
                    "NULL AND {} < {} GROUP BY customer_id",
                    dated, dialect_.days_between("last_day", "order_date"), frequency::kYear),
        {"customer_id", "amount"}, [&](const std::vector<SqlValue>& row) -> OrError<void> {
          PEAR_ASSIGN(customers[codes_.at(*row[0])].yearly_amount, whole64(row[1]));
          return {};
        });
  }

  OrError<void> read_waiting_times(std::vector<frequency::WaitingTimes>& times) const {
    std::string place = "CASE";
    for (std::size_t i = 0; i + 1 < frequency::kOrderNumbers.size(); ++i)
      place += fmt::format(" WHEN number <= {} THEN {}", frequency::kOrderNumbers.at(i), i);
    place += fmt::format(" ELSE {} END", frequency::kOrderNumbers.size() - 1);
    return read(
        fmt::format("SELECT place, is_last, days, COUNT(*) AS n FROM (SELECT {} AS place, is_last, days FROM "
                    "({}) AS pear_waits) AS pear_placed GROUP BY place, is_last, days",
                    place, waits()),
        {"place", "is_last", "days", "n"}, [&](const std::vector<SqlValue>& row) -> OrError<void> {
          PEAR_ASSIGN(const std::int64_t of, whole64(row[0]));
          PEAR_ASSIGN(const std::int64_t is_last, whole64(row[1]));
          PEAR_ASSIGN(const std::int64_t days, whole64(row[2]));
          PEAR_ASSIGN(const std::int64_t n, whole64(row[3]));
          times[static_cast<std::size_t>(of)].add(static_cast<std::size_t>(days), is_last == 1,
                                                  static_cast<std::uint32_t>(n));
          return {};
        });
  }

  /// Each order of a customer, its number, and the days to the next one or to the end of the data.
  [[nodiscard]] std::string waits() const {
    const std::string in_time = "OVER (PARTITION BY customer_id ORDER BY day)";
    const std::string numbered = fmt::format(
        "SELECT customer_id, day, ROW_NUMBER() {0} AS number, LEAD(day) {0} AS next_day FROM ({1}) AS "
        "pear_orders",
        in_time, counter_.with_first_days());
    return fmt::format(
        "SELECT customer_id, number, CASE WHEN next_day IS NULL THEN 1 ELSE 0 END AS is_last, {} AS days "
        "FROM ({}) AS "
        "pear_numbered",
        dialect_.days_between(fmt::format("COALESCE(next_day, {})", dialect_.date_literal(input_.data_end)),
                              "day"),
        numbered);
  }

  template <class Use>
  OrError<void> read(const std::string& select, const std::vector<std::string>& columns,
                     const Use& use) const {
    PEAR_ASSIGN(const SqlRows rows, lines_.session.rows(lines_.with, select, columns));
    for (const auto& row : rows) PEAR_TRY(use(row));
    return {};
  }

  /// All orders of a customer, within the window or not.
  struct OrdersOf {
    std::uint32_t customer = 0;
    std::int32_t first = 0, last = 0;
    std::int64_t orders = 0;
  };

  const frequency::Options& options_;
  const OrderCounter& counter_;
  const GroupReader& reader_;
  const Dialect& dialect_;
  const SelectedLines& lines_;
  const analysis::QuestionInput& input_;
  absl::flat_hash_map<std::string, std::uint32_t> codes_;  ///< of customers
  std::vector<OrdersOf> customers_;
};

}  // namespace

OrError<result::Result> answer_frequency(const analysis::OptionValues& values, const SelectedLines& lines,
                                         const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const frequency::Options options, frequency::read_options(values));
  PEAR_ASSIGN(const GroupReader reader, GroupReader::read_groups("by", options.by, lines));
  frequency::Counts counts{options, input.daybook, reader.groups(), {}, {}, {}, {}, {}, false};
  counts.orders.groups.resize(counts.groups.count);
  OrderCounter counter(options, reader, input.data_end);
  PEAR_TRY(counter.count_customers(counts));
  if (options.count) PEAR_TRY(counter.count_values(lines, counts));
  PEAR_TRY(counter.count_days(counts.orders.groups));
  PEAR_ASSIGN(counts.orders.without_order, reader.customers_without_order());
  PEAR_ASSIGN(counts.orders.incomplete, counter.incomplete());
  PEAR_ASSIGN(counts.distribution, frequency::distribute(counts.values, options, counts.groups));
  if (options.list) PEAR_TRY(CustomerLister(options, counter, reader, lines, input).list(counts));
  if (lines.session.explains()) return result::Result{};
  return frequency::result_of(counts, input);
}

}  // namespace pear::pushdown
