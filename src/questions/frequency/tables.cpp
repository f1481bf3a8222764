#include "questions/frequency/tables.hpp"

#include <algorithm>
#include <array>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "base/text.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/purchases.hpp"
#include "statistics/quantile.hpp"

namespace pear::frequency {
namespace {

/// What a row of the distribution is of: the number, or the band.
result::TableColumn place_column(const Finding& finding, const std::vector<std::uint32_t>& places) {
  const Distribution& distribution = finding.distribution;
  if (distribution.is_banded) {
    TextArray labels;
    for (const std::uint32_t place : places) labels.push_back(distribution.labels[place]);
    return result::text_column(
        "band", fmt::format("Band of {} of a customer{}.", finding.noun(), finding.in_window()),
        std::move(labels));
  }
  std::vector<std::int64_t> values;
  for (const std::uint32_t place : places) values.push_back(distribution.values[place]);
  return result::integer_column(
      finding.values.name, result::Unit::count,
      fmt::format("Number of {} of a customer{}.", finding.noun(), finding.in_window()), std::move(values));
}

/// One group's row of the summary.
class SummaryRows {
 public:
  void add(const OrderFacts& facts) {
    customers_.push_back(static_cast<std::int64_t>(facts.customers));
    came_back_.push_back(static_cast<std::int64_t>(facts.came_back));
    shares_.push_back(static_cast<double>(facts.came_back) / static_cast<double>(facts.customers));
    orders_.push_back(static_cast<std::int64_t>(facts.orders));
    const std::array<statistics::Fraction, 3> fractions = {statistics::kQuarter, statistics::kHalf,
                                                           statistics::kThreeQuarters};
    for (std::size_t i = 0; i < 3; ++i) {
      days_[i].push_back(
          statistics::quantile_of_counts(facts.days_between, fractions[i]).value_or(result::kEmptyCell));
      days_[i + 3].push_back(
          statistics::quantile_of_counts(facts.typical_days, fractions[i]).value_or(result::kEmptyCell));
    }
  }

  void move_into(std::vector<result::TableColumn>& columns) {
    columns.push_back(result::integer_column("customers", result::Unit::count, "Customers counted.",
                                             std::move(customers_)));
    columns.push_back(result::integer_column("came_back", result::Unit::count,
                                             "Customers with a second order in the time counted.",
                                             std::move(came_back_)));
    columns.push_back(result::share_column("came_back_share",
                                           "These as a share of the customers counted: the repeat rate.",
                                           std::move(shares_)));
    columns.push_back(result::integer_column(
        "orders", result::Unit::count, "Orders of these customers in the time counted.", std::move(orders_)));
    constexpr std::array<const char*, 3> kNames = {"p25", "median", "p75"};
    constexpr std::array<const char*, 3> kWords = {"A quarter", "Half", "Three quarters"};
    for (std::size_t i = 0; i < 6; ++i) {
      const bool of_customers = i >= 3;
      add_days(columns, fmt::format("{}_{}", of_customers ? "customer_days" : "days", kNames[i % 3]),
               kNames[i % 3],
               of_customers
                   ? fmt::format("{} of the customers who came back have a median of so many days between "
                                 "their orders, or fewer.",
                                 kWords[i % 3])
                   : fmt::format("{} of all next orders came so many days after the one before, or fewer.",
                                 kWords[i % 3]),
               of_customers ? "customers' medians" : "days between orders", std::move(days_[i]));
    }
  }

 private:
  static void add_days(std::vector<result::TableColumn>& columns, std::string name, std::string heading,
                       std::string description, std::string group, std::vector<std::int64_t> days) {
    columns.push_back(
        result::integer_column(std::move(name), result::Unit::days, std::move(description), std::move(days)));
    columns.back().group = std::move(group);
    columns.back().heading = std::move(heading);
  }

  std::vector<std::int64_t> customers_, came_back_, orders_;
  std::vector<double> shares_;
  std::array<std::vector<std::int64_t>, 6> days_;
};

}  // namespace

OrderFacts Finding::all_groups() const {
  OrderFacts all;
  for (const OrderFacts& facts : orders.groups) {
    all.customers += facts.customers;
    all.came_back += facts.came_back;
    all.orders += facts.orders;
    add_all(all.days_between, facts.days_between);
    add_all(all.typical_days, facts.typical_days);
  }
  return all;
}

std::uint64_t Finding::customers(std::uint32_t group) const {
  const auto& places = distribution.customers[group];
  return std::accumulate(places.begin(), places.end(), std::uint64_t{0});
}

std::uint64_t Finding::customers() const {
  std::uint64_t all = 0;
  for (std::uint32_t group = 0; group < groups.count; ++group) all += customers(group);
  return all;
}

std::string Finding::in_window() const {
  return options.within
             ? fmt::format(" in their first {}", counted(static_cast<std::uint64_t>(*options.within), "day"))
             : "";
}

std::string Finding::noun() const {
  std::string noun = values.name;
  std::replace(noun.begin(), noun.end(), '_', ' ');
  return noun;
}

result::Table distribution_table(const Finding& finding) {
  std::vector<std::uint32_t> groups, places;
  std::vector<std::int64_t> customers;
  std::vector<double> shares, running;
  for (std::uint32_t group = 0; group < finding.groups.count; ++group) {
    const auto all = static_cast<double>(finding.customers(group));
    std::uint64_t so_far = 0;
    for (std::uint32_t place = 0; place < finding.distribution.places(); ++place) {
      const std::uint64_t count = finding.distribution.customers[group][place];
      if (all == 0 || (count == 0 && !finding.distribution.is_banded)) continue;
      so_far += count;
      groups.push_back(group);
      places.push_back(place);
      customers.push_back(static_cast<std::int64_t>(count));
      shares.push_back(static_cast<double>(count) / all);
      running.push_back(static_cast<double>(so_far) / all);
    }
  }
  const bool banded = finding.distribution.is_banded;
  const std::string of_group =
      finding.groups.is_split() ? fmt::format(" of each {}", finding.groups.noun()) : "";
  result::Table table{"", fmt::format("Customers by {} {}", banded ? "band of" : "number of", finding.noun()),
                      fmt::format("One row for each {} {}{}{}.", banded ? "band of" : "number of",
                                  finding.noun(), finding.in_window(), of_group),
                      finding.groups.columns(groups)};
  table.columns.push_back(place_column(finding, places));
  table.columns.push_back(result::integer_column("customers", result::Unit::count, "Customers of this row.",
                                                 std::move(customers)));
  const std::string whole =
      finding.groups.is_split() ? "the customers of the group" : "all customers counted";
  table.columns.push_back(result::share_column(
      "share", fmt::format("These customers as a share of {}.", whole), std::move(shares)));
  table.columns.push_back(result::share_column(
      "running_share", fmt::format("Share of {} with so many or fewer.", whole), std::move(running)));
  table.most_shown = finding.groups.is_split() ? 24 : 12;
  return table;
}

result::Table summary_table(const Finding& finding) {
  SummaryRows rows;
  std::vector<std::uint32_t> groups;
  for (std::uint32_t group = 0; finding.groups.is_split() && group < finding.groups.count; ++group) {
    if (finding.orders.groups[group].customers == 0) continue;
    groups.push_back(group);
    rows.add(finding.orders.groups[group]);
  }
  groups.push_back(finding.groups.count);
  rows.add(finding.all_groups());
  result::Table table{"summary", "Who came back, and after how many days",
                      finding.groups.is_split() ? "One row for each group, and the last for all customers."
                                                : "One row for all customers.",
                      finding.groups.columns(groups)};
  rows.move_into(table.columns);
  if (finding.groups.is_split()) table.totals = {table.rows() - 1};
  return table;
}

result::Table list_table(const Finding& finding, const daybook::Daybook& daybook) {
  const auto& place_of = finding.distribution.place_of;
  std::vector<std::uint32_t> customers;
  for (std::uint32_t i = 0; i < place_of.size(); ++i)
    if (place_of[i] != expression::kNoMember) customers.push_back(i);
  std::stable_sort(customers.begin(), customers.end(), [&](std::uint32_t a, std::uint32_t b) {
    const std::uint32_t group_a = finding.groups.group_of(a), group_b = finding.groups.group_of(b);
    return group_a != group_b ? group_a < group_b : place_of[a] < place_of[b];
  });
  std::vector<std::uint32_t> groups, places;
  std::vector<std::int64_t> values, orders, first, last;
  const daybook::Purchases purchases(daybook);
  for (const std::uint32_t customer : customers) {
    groups.push_back(finding.groups.group_of(customer));
    places.push_back(place_of[customer]);
    values.push_back(finding.values.values[customer]);
    orders.push_back(finding.orders.orders[customer]);
    daybook::Run run = daybook.orders_of(customer);
    while (!purchases.is_order(run.begin)) ++run.begin;
    while (!purchases.is_order(run.end - 1)) --run.end;
    first.push_back(daybook.date_of_order(run.begin).days);
    last.push_back(daybook.date_of_order(run.end - 1).days);
  }
  result::Table table{"list", "Who they are", "One row for each customer counted, group by group.",
                      finding.groups.columns(groups)};
  auto& columns = table.columns;
  if (finding.distribution.is_banded) columns.push_back(place_column(finding, places));
  columns.push_back(
      analysis::id_column("customer_id", "The customer.", daybook.customer_ids(), std::move(customers)));
  if (finding.options.count)
    columns.push_back(result::integer_column(
        finding.values.name, finding.values.unit,
        fmt::format("{} of the customer{}.", finding.options.count->text, finding.in_window()),
        std::move(values)));
  columns.push_back(result::integer_column("orders", result::Unit::count,
                                           fmt::format("Orders of the customer{}.", finding.in_window()),
                                           std::move(orders)));
  columns.push_back(result::integer_column("first_date", result::Unit::date,
                                           "Date of the customer's first order.", std::move(first)));
  columns.push_back(result::integer_column("last_date", result::Unit::date,
                                           "Date of the customer's last order.", std::move(last)));
  table.most_shown = 10;
  return table;
}

}  // namespace pear::frequency
