#include "questions/frequency/tables.hpp"

#include <algorithm>
#include <cmath>
#include <tuple>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/share_interval.hpp"
#include "analysis/tables/table_builder.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "statistics/quantile.hpp"

namespace pear::frequency {
namespace {

/// A row of the distribution, or one of the list: its group and its place.
struct PlaceRow {
  std::uint32_t group = 0, place = 0;
  std::uint64_t customers = 0, so_far = 0;  ///< of the row, and of the group up to it
};

/// The noun for a row: the number, or the band.
template <class Builder, class PlaceOf>
void add_place(const Counts& counts, Builder& builder, PlaceOf place_of) {
  const Distribution& distribution = counts.distribution;
  if (distribution.is_banded) {
    builder.text("band", fmt::format("Band of {} of a customer{}.", counts.noun(), counts.in_window()),
                 [&](const auto& row) { return std::string_view(distribution.labels[place_of(row)]); });
    return;
  }
  builder.count(counts.values.name,
                fmt::format("Number of {} of a customer{}.", counts.noun(), counts.in_window()),
                [&](const auto& row) { return distribution.values[place_of(row)]; });
}

std::vector<PlaceRow> distribution_rows(const Counts& counts) {
  std::vector<PlaceRow> rows;
  for (std::uint32_t group = 0; group < counts.groups.count; ++group) {
    if (counts.customers(group) == 0) continue;
    std::uint64_t so_far = 0;
    for (std::uint32_t place = 0; place < counts.distribution.places(); ++place) {
      const std::uint64_t customers = counts.distribution.customers[group][place];
      if (customers == 0 && !counts.distribution.is_banded) continue;
      rows.push_back({group, place, customers, so_far += customers});
    }
  }
  return rows;
}

/// A group of the summary, or all customers.
struct SummaryRow {
  std::uint32_t group = 0;
  OrderFacts facts;
};

/// Quartiles of numbers of days, with a common heading.
template <class TalliesOf>
void add_quartiles(analysis::TableBuilder<std::vector<SummaryRow>>& builder, const std::string& name,
                   const std::string& group, fmt::string_view description, TalliesOf tallies_of) {
  struct Quartile {
    const char *name, *words;
    statistics::Fraction fraction;
  };
  for (const Quartile& quartile :
       {Quartile{"p25", "A quarter", statistics::kQuarter}, Quartile{"median", "Half", statistics::kHalf},
        Quartile{"p75", "Three quarters", statistics::kThreeQuarters}}) {
    result::TableColumn& column =
        builder.days(fmt::format("{}_{}", name, quartile.name),
                     fmt::format(fmt::runtime(description), quartile.words), [&](const SummaryRow& row) {
                       return statistics::quantile_of_counts(tallies_of(row.facts), quartile.fraction)
                           .value_or(result::kEmptyCell);
                     });
    column.group = group;
    column.heading = quartile.name;
  }
}

}  // namespace

result::Table distribution_table(const Counts& counts) {
  const std::vector<PlaceRow> rows = distribution_rows(counts);
  const std::string what = counts.distribution.is_banded ? "band of" : "number of";
  const std::string of_group =
      counts.groups.is_split() ? fmt::format(" of each {}", counts.groups.noun()) : "";
  result::Table table{
      "",
      fmt::format("Customers by {} {}", what, counts.noun()),
      fmt::format("One row for each {} {}{}{}.", what, counts.noun(), counts.in_window(), of_group),
      {}};
  analysis::TableBuilder builder(table, rows);
  table.columns = counts.groups.columns(builder.codes([](const PlaceRow& row) { return row.group; }));
  add_place(counts, builder, [](const PlaceRow& row) { return row.place; });
  builder.count("customers", "Customers in this row.", [](const PlaceRow& row) { return row.customers; });
  const std::string whole = counts.groups.is_split() ? "the customers of the group" : "all customers counted";
  const auto of_group_share = [&](const PlaceRow& row, std::uint64_t customers) {
    return static_cast<double>(customers) / static_cast<double>(counts.customers(row.group));
  };
  builder.share("share", fmt::format("These customers as a share of {}.", whole),
                [&](const PlaceRow& row) { return of_group_share(row, row.customers); });
  builder.share("cumulative_share", fmt::format("Share of {} with this many or fewer.", whole),
                [&](const PlaceRow& row) { return of_group_share(row, row.so_far); });
  if (counts.is_sample)
    analysis::add_share_interval(builder, "share", [&](const PlaceRow& row) {
      return std::pair(row.customers, counts.customers(row.group));
    });
  table.most_shown = counts.groups.is_split() ? 24 : 12;
  return table;
}

result::Table summary_table(const Counts& counts) {
  std::vector<SummaryRow> rows;
  for (std::uint32_t group = 0; counts.groups.is_split() && group < counts.groups.count; ++group)
    if (counts.orders.groups[group].customers > 0) rows.push_back({group, counts.orders.groups[group]});
  rows.push_back({counts.groups.count, counts.all_groups()});
  result::Table table{"summary",
                      "Repeat rate, and days between orders",
                      counts.groups.is_split() ? "One row for each group, and the last for all customers."
                                               : "One row for all customers.",
                      {}};
  analysis::TableBuilder builder(table, rows);
  table.columns = counts.groups.columns(builder.codes([](const SummaryRow& row) { return row.group; }));
  builder.count("customers", "Customers counted.", [](const SummaryRow& row) { return row.facts.customers; });
  builder.count("ordered_again", "Customers with a second order in the time counted.",
                [](const SummaryRow& row) { return row.facts.ordered_again; });
  builder.share("repeat_rate", "These as a share of the customers counted: the repeat rate.",
                [](const SummaryRow& row) {
                  return static_cast<double>(row.facts.ordered_again) /
                         static_cast<double>(row.facts.customers);
                });
  if (counts.is_sample)
    analysis::add_share_interval(builder, "repeat_rate", [](const SummaryRow& row) {
      return std::pair(row.facts.ordered_again, row.facts.customers);
    });
  builder.count("orders", "Orders of these customers in the time counted.",
                [](const SummaryRow& row) { return row.facts.orders; });
  add_quartiles(builder, "days", "days between orders",
                "{} of all next orders came this many days after the previous one, or sooner.",
                [](const OrderFacts& facts) { return facts.days_between; });
  add_quartiles(
      builder, "customer_days", "median per customer",
      "{} of the customers who ordered again have a median of this many days between their orders, or less.",
      [](const OrderFacts& facts) { return facts.typical_days; });
  if (counts.groups.is_split()) table.totals = {table.rows() - 1};
  return table;
}

namespace {

template <class Builder>
void add_quiet_columns(const Counts& counts, Builder& builder) {
  const QuietCustomers& quiet = *counts.quiet;
  const auto of = [&](const ListedCustomer& row) -> const QuietCustomer& {
    return quiet.customers[row.customer];
  };
  const auto band = [&](const ListedCustomer& row) -> const OrderBand& { return quiet.bands[of(row).band]; };
  const std::string next = counted(static_cast<std::uint64_t>(quiet.horizon), "day");
  builder.days("median_days", "Median days between the customer's orders; empty with one order.",
               [&](const ListedCustomer& row) { return of(row).median_days.value_or(result::kEmptyCell); });
  builder
      .days("silent_days", "Days from the last order to the end of the data.",
            [&](const ListedCustomer& row) { return of(row).silent_days; })
      .always_shown = true;
  builder.days("usual_days",
               "9 of 10 next orders of customers with as many orders followed within these days.",
               [&](const ListedCustomer& row) { return band(row).usual_days; });
  builder.text("is_quiet", "Whether silent_days is more than usual_days: yes or no.",
               [&](const ListedCustomer& row) { return std::string(of(row).is_quiet ? "yes" : "no"); });
  builder
      .share("orders_again",
             fmt::format("Share of the customers with as many orders, silent for as long, who ordered again "
                         "within the next {} (Kaplan-Meier); empty with fewer than 20.",
                         next),
             [&](const ListedCustomer& row) {
               return band(row).share_after(of(row).silent_days, quiet.horizon).value_or(std::nan(""));
             })
      .always_shown = true;
  builder.count("observed", "Customers with as many orders who were observed silent for longer.",
                [&](const ListedCustomer& row) { return band(row).observed_after(of(row).silent_days); });
  builder.money("yearly_amount", "Amount of the year that ends with the last order, net of returns.",
                [&](const ListedCustomer& row) { return of(row).yearly_amount; });
  builder
      .money("at_stake", "If is_quiet: yearly_amount x orders_again, what can still be won; otherwise 0.",
             [&](const ListedCustomer& row) { return of(row).at_stake; })
      .always_shown = true;
}

}  // namespace

result::Table list_table(const Counts& counts) {
  result::Table table{
      "list",
      counts.quiet ? "Customers, those going quiet with the most at stake first" : "Customers",
      "One row for each customer counted.",
      {}};
  analysis::TableBuilder builder(table, counts.listed);
  table.columns = counts.groups.columns(builder.codes([](const ListedCustomer& row) { return row.group; }));
  if (counts.distribution.is_banded)
    add_place(counts, builder, [](const ListedCustomer& row) { return row.place; });
  builder.id("customer_id", "The customer.", counts.daybook.customer_ids(),
             [](const ListedCustomer& row) { return row.customer; });
  if (counts.options.count)
    builder.integer(counts.values.unit, counts.values.name,
                    fmt::format("{} of the customer{}.", counts.options.count->text, counts.in_window()),
                    [](const ListedCustomer& row) { return row.value; });
  builder.count("orders", fmt::format("Orders of the customer{}.", counts.in_window()),
                [](const ListedCustomer& row) { return row.orders; });
  builder.date("first_date", "Date of the customer's first order.",
               [](const ListedCustomer& row) { return row.first.days; });
  builder.date("last_date", "Date of the customer's last order.",
               [](const ListedCustomer& row) { return row.last.days; });
  if (counts.quiet) add_quiet_columns(counts, builder);
  table.most_shown = 10;
  return table;
}

}  // namespace pear::frequency
