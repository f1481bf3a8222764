#include "pushdown/questions/customer_lister.hpp"

#include <algorithm>
#include <span>
#include <utility>

#include <fmt/format.h>

namespace pear::pushdown {

CustomerLister::CustomerLister(const frequency::Options& options, const OrderCounter& counter,
                               const GroupReader& reader, const SelectedLines& lines,
                               const analysis::QuestionInput& input)
    : options_(options),
      counter_(counter),
      reader_(reader),
      dialect_(reader.dialect()),
      lines_(lines),
      input_(input),
      codes_(input.daybook.customer_ids()) {}

OrError<void> CustomerLister::list(frequency::Counts& counts) {
  PEAR_TRY(read_customers(counts));
  if (!options_.within) PEAR_TRY(find_quiet(counts));
  std::sort(counts.listed.begin(), counts.listed.end(),
            [](const auto& a, const auto& b) { return a.customer < b.customer; });
  frequency::sort_listed(counts);
  return {};
}

OrError<void> CustomerLister::read_customers(frequency::Counts& counts) {
  const std::string select = fmt::format(
      "SELECT {0}customer_id, first_day, MAX(on_day) AS last_day, COUNT(*) AS orders, COUNT(CASE WHEN {1} "
      "THEN 1 END) "
      "AS number FROM ({2}) AS pear_orders GROUP BY {0}customer_id, first_day",
      reader_.names(), counter_.is_counted(), counter_.with_first_days());
  return reader_.read(select, {"customer_id", "first_day", "last_day", "orders", "number"},
                      [&](std::uint32_t group, std::span<const SqlValue> values) -> OrError<void> {
                        frequency::ListedCustomer listed;
                        PEAR_ASSIGN(listed.customer, codes_[values[0]]);
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

OrError<void> CustomerLister::find_quiet(frequency::Counts& counts) const {
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

OrError<void> CustomerLister::read_medians(std::vector<frequency::QuietCustomer>& customers) const {
  const std::string in_order = fmt::format(
      "SELECT customer_id, days, ROW_NUMBER() OVER (PARTITION BY customer_id ORDER BY days) AS place, "
      "COUNT(*) "
      "OVER (PARTITION BY customer_id) AS gaps FROM ({}) AS pear_waits WHERE is_last = 0",
      waits());
  return read(fmt::format("SELECT customer_id, days FROM ({}) AS pear_in_order WHERE place = (gaps + 1) / 2",
                          in_order),
              {"customer_id", "days"}, [&](const std::vector<SqlValue>& row) -> OrError<void> {
                PEAR_ASSIGN(const std::int64_t days, whole64(row[1]));
                PEAR_ASSIGN(const std::uint32_t customer, codes_[row[0]]);
                customers[customer].median_days = days;
                return {};
              });
}

OrError<void> CustomerLister::read_amounts(std::vector<frequency::QuietCustomer>& customers) const {
  const std::string dated =
      "SELECT customer_id, order_date, amount, MAX(CASE WHEN NOT is_return THEN order_date END) OVER "
      "(PARTITION BY "
      "customer_id) AS last_day FROM pear_lines";
  return read(
      fmt::format("SELECT customer_id, SUM(amount) AS amount FROM ({}) AS pear_dated WHERE last_day IS NOT "
                  "NULL AND {} < {} GROUP BY customer_id",
                  dated, dialect_.days_between("last_day", "order_date"), frequency::kYear),
      {"customer_id", "amount"}, [&](const std::vector<SqlValue>& row) -> OrError<void> {
        PEAR_ASSIGN(const std::uint32_t customer, codes_[row[0]]);
        PEAR_ASSIGN(customers[customer].yearly_amount, whole64(row[1]));
        return {};
      });
}

OrError<void> CustomerLister::read_waiting_times(std::vector<frequency::WaitingTimes>& times) const {
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

std::string CustomerLister::waits() const {
  const std::string in_time = "OVER (PARTITION BY customer_id ORDER BY on_day)";
  const std::string numbered = fmt::format(
      "SELECT customer_id, on_day, ROW_NUMBER() {0} AS number, LEAD(on_day) {0} AS next_day FROM ({1}) AS "
      "pear_orders",
      in_time, counter_.with_first_days());
  return fmt::format(
      "SELECT customer_id, number, CASE WHEN next_day IS NULL THEN 1 ELSE 0 END AS is_last, {} AS days "
      "FROM ({}) AS "
      "pear_numbered",
      dialect_.days_between(fmt::format("COALESCE(next_day, {})", dialect_.date_literal(input_.data_end)),
                            "on_day"),
      numbered);
}

}  // namespace pear::pushdown
