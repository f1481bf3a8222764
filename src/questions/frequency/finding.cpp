#include "questions/frequency/finding.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "statistics/quantile.hpp"
#include "statistics/significance.hpp"

namespace pear::frequency {
namespace {

std::string ordered_again(const Counts& counts) {
  const OrderFacts all = counts.all_groups();
  const std::string within =
      counts.options.within
          ? fmt::format(" within {}", counted(static_cast<std::uint64_t>(*counts.options.within), "day"))
          : "";
  if (all.ordered_again == 0 && all.customers == 1)
    return fmt::format("The only customer has not ordered again{}.", within);
  if (all.ordered_again == 0)
    return fmt::format("None of {} ordered again{}.", counted(all.customers, "customer"), within);
  if (all.ordered_again == all.customers)
    return all.customers == 1
               ? fmt::format("The only customer ordered again{}.", within)
               : fmt::format("All {} ordered again{}.", counted(all.customers, "customer"), within);
  const std::uint64_t once = all.customers - all.ordered_again;
  return fmt::format("{} of {} ({}) ordered again{}; {} ordered only once{}.",
                     with_thousands(static_cast<std::int64_t>(all.ordered_again)),
                     counted(all.customers, "customer"), analysis::per_cent(all.ordered_again, all.customers),
                     within, analysis::per_cent(once, all.customers),
                     counts.options.within ? " in that time" : "");
}

/// Whether the repeat rates of two groups, the extremes of so many, differ significantly: adjusted for the
/// number of pairs (Bonferroni).
bool differ(const OrderFacts& best, const OrderFacts& weakest, std::uint64_t groups) {
  const double p =
      statistics::fisher_test(best.ordered_again, best.customers, best.ordered_again + weakest.ordered_again,
                              best.customers + weakest.customers);
  return p * static_cast<double>(groups * (groups - 1)) / 2 <= 0.05;
}

/// The groups with the highest and lowest repeat rates, of those with enough customers.
std::string groups_apart(const Counts& counts) {
  if (is_unfair(counts))
    return fmt::format(
        "Customers of an earlier {} had more time to order: --within 90 compares the first 90 days of each "
        "customer.",
        counts.groups.noun());
  constexpr std::uint64_t kEnough = 20;
  std::optional<std::uint32_t> best, weakest;
  std::uint64_t compared = 0;
  const auto share = [&](std::uint32_t group) {
    const OrderFacts& facts = counts.orders.groups[group];
    return static_cast<double>(facts.ordered_again) / static_cast<double>(facts.customers);
  };
  for (std::uint32_t group = 0; group < counts.groups.count; ++group) {
    if (counts.orders.groups[group].customers < kEnough) continue;
    ++compared;
    if (!best || share(group) > share(*best)) best = group;
    if (!weakest || share(group) < share(*weakest)) weakest = group;
  }
  if (!best) return "No group has at least 20 customers to compare.";
  const auto group_text = [&](std::uint32_t group, bool with_noun) {
    return (with_noun ? counts.groups.noun() + " " : "") + counts.groups.label(group);
  };
  const auto shares = [&](std::uint32_t group) {
    const OrderFacts& facts = counts.orders.groups[group];
    return fmt::format("{} of {}", analysis::per_cent(facts.ordered_again, facts.customers),
                       with_thousands(static_cast<std::int64_t>(facts.customers)));
  };
  if (compared == 1)
    return fmt::format("Only {} has at least 20 customers: {} ordered again.", group_text(*best, true),
                       shares(*best));
  if (share(*best) == share(*weakest))
    return fmt::format(
        "The repeat rate is {} in each {} with at least 20 customers.",
        analysis::per_cent(counts.orders.groups[*best].ordered_again, counts.orders.groups[*best].customers),
        counts.groups.noun());
  if (!differ(counts.orders.groups[*best], counts.orders.groups[*weakest], compared))
    return fmt::format("Repeat rates do not differ significantly: {} ({}) to {} ({}).",
                       group_text(*weakest, true), shares(*weakest), group_text(*best, false), shares(*best));
  return fmt::format("Repeat rates: highest in {} ({}), lowest in {} ({}).", group_text(*best, true),
                     shares(*best), group_text(*weakest, false), shares(*weakest));
}

std::string value_text(const Counts& counts, std::int64_t value) {
  return counts.values.unit == result::Unit::count ? with_thousands(value)
                                                   : with_thousands(Decimal::from_units(value), 2);
}

struct Spread {
  std::int64_t least = 0, median = 0, most = 0;
};

Spread spread_of(const Counts& counts) {
  const Distribution& distribution = counts.distribution;
  if (distribution.is_banded) {
    std::vector<std::pair<std::int64_t, std::uint64_t>> values;  // with the number of customers
    for (std::uint32_t i = 0; i < counts.values.values.size(); ++i)
      if (counts.values.values[i] != result::kEmptyCell)
        values.emplace_back(counts.values.values[i], counts.values.weight(i));
    std::sort(values.begin(), values.end());
    std::uint64_t rest = statistics::quantile_rank(counts.customers(), statistics::kHalf);
    auto median = values.begin();
    for (; median->second < rest; ++median) rest -= median->second;
    return {values.front().first, median->first, values.back().first};
  }
  std::vector<std::uint64_t> tallies;
  for (std::size_t place = 0; place < distribution.places(); ++place)
    tallies.push_back(distribution.all(place));
  const auto middle = static_cast<std::size_t>(*statistics::quantile_of_counts(tallies, statistics::kHalf));
  return {distribution.values.front(), distribution.values[middle], distribution.values.back()};
}

/// The median number, and the maximum.
std::string spread(const Counts& counts) {
  const auto [least, median, most] = spread_of(counts);
  if (counts.options.count) {
    if (least == most)
      return fmt::format("All customers have the same number of {}: {}.", counts.noun(),
                         value_text(counts, most));
    const std::string half = counts.values.unit == result::Unit::count
                                 ? fmt::format("{} {} or fewer", value_text(counts, median), counts.noun())
                                 : fmt::format("{} of {} or less", counts.noun(), value_text(counts, median));
    return fmt::format("Half of the customers have {}; the maximum is {}.", half, value_text(counts, most));
  }
  if (most == 1) return "Each customer placed one order.";
  if (least == most)
    return fmt::format("Each customer placed {}.", counted(static_cast<std::uint64_t>(most), "order"));
  return fmt::format("Half of them placed {} or fewer; the maximum is {}.",
                     counted(static_cast<std::uint64_t>(median), "order"),
                     counted(static_cast<std::uint64_t>(most), "order"));
}

std::string largest_band(const Counts& counts) {
  std::size_t largest = 0;
  for (std::size_t place = 1; place < counts.distribution.places(); ++place)
    if (counts.distribution.all(place) > counts.distribution.all(largest)) largest = place;
  const bool outside = counts.distribution.has_outside && largest + 1 == counts.distribution.places();
  return fmt::format("{} of {} customers are {}{}.",
                     with_thousands(static_cast<std::int64_t>(counts.distribution.all(largest))),
                     with_thousands(static_cast<std::int64_t>(counts.customers())),
                     outside ? "" : "in the band ", counts.distribution.labels[largest]);
}

/// The shares of each group's rows, which follow one another, add up to 1.
bool shares_add_up(const result::Table& table, std::size_t labels) {
  const result::TableColumn& shares = table.column("share");
  const auto same_group = [&](std::size_t row) {
    for (std::size_t i = 0; i < labels; ++i)
      if (table.columns[i].text(row) != table.columns[i].text(row - 1)) return false;
    return true;
  };
  double sum = 0;
  for (std::size_t row = 0; row < table.rows(); ++row) {
    sum += shares.fraction(row);
    if (row + 1 < table.rows() && same_group(row + 1)) continue;
    if (std::abs(sum - 1) > 1e-9) return false;
    sum = 0;
  }
  return true;
}

}  // namespace

bool is_unfair(const Counts& counts) { return counts.groups.is_time() && !counts.options.within; }

std::vector<std::string> headline_of(const Counts& counts) {
  if (counts.all_groups().customers == 0)
    return {counts.orders.incomplete > 0 ? "No customer can be counted: all are too new."
                                         : "No customer placed an order."};
  std::vector<std::string> headline = {ordered_again(counts)};
  if (counts.groups.is_split()) headline.push_back(groups_apart(counts));
  if (counts.customers() == 0) return headline;
  headline.push_back(counts.distribution.is_banded && !counts.options.count ? largest_band(counts)
                                                                            : spread(counts));
  return headline;
}

namespace {

/// The sum of an amount of all quiet customers.
template <class AmountOf>
DecimalSum sum_of_quiet(const QuietCustomers& quiet, const AmountOf& amount_of) {
  DecimalSum sum;
  for (const QuietCustomer& customer : quiet.customers)
    if (customer.is_quiet) sum.add(Decimal::from_units(std::max<std::int64_t>(amount_of(customer), 0)));
  return sum;
}

DecimalSum at_stake(const QuietCustomers& quiet) {
  return sum_of_quiet(quiet, [](const QuietCustomer& customer) { return customer.at_stake; });
}

}  // namespace

std::vector<result::Stake> stakes_of(const Counts& counts, std::size_t sentence) {
  const auto total = at_stake(*counts.quiet).total();
  if (!total || total->units() <= 0) return {};
  return {{sentence, total->units()}};
}

std::string quiet_sentence(const Counts& counts, std::string_view currency) {
  std::uint64_t quiet = 0, all = 0;
  for (const QuietCustomer& customer : counts.quiet->customers) {
    all += customer.orders > 0 ? 1U : 0U;
    quiet += customer.is_quiet ? 1U : 0U;
  }
  if (quiet == 0)
    return "No customer is quiet: none has been silent for longer than 9 of 10 customers with as many "
           "orders were before their next order.";
  const DecimalSum yearly =
      sum_of_quiet(*counts.quiet, [](const QuietCustomer& customer) { return customer.yearly_amount; });
  return fmt::format(
      "{} of {} are quiet: silent for longer than 9 of 10 customers with as many orders were before their "
      "next order. They spent {} in the year up to their last order; {} of that is at stake: the part of "
      "those who may still order again within {}.",
      with_thousands(static_cast<std::int64_t>(quiet)), counted(all, "customer"),
      analysis::money_text(yearly, currency), analysis::money_text(at_stake(*counts.quiet), currency),
      counted(static_cast<std::uint64_t>(counts.quiet->horizon), "day"));
}

void add_notes(const Counts& counts, Date data_end, result::Result& result) {
  const Options& options = counts.options;
  const OrderCounts& orders = counts.orders;
  const std::string window =
      options.within ? counted(static_cast<std::uint64_t>(*options.within), "day") : std::string();
  if (orders.incomplete > 0 && !options.include_incomplete)
    result.notes.push_back(fmt::format(
        "{} left out as too new: their first {} are not entirely within the data, which ends on {}.",
        counted(orders.incomplete, "customer"), window, to_text(data_end)));
  if (orders.incomplete > 0 && options.include_incomplete)
    result.notes.push_back(
        fmt::format("{} included although their first {} are not over on {}, the last day of data: they may "
                    "order more in the rest of them.",
                    counted(orders.incomplete, "customer"), window, to_text(data_end)));
  if (orders.without_order > 0)
    result.notes.push_back(fmt::format("{} left out: they have returns but no order.",
                                       counted(orders.without_order, "customer")));
  if (counts.values.without_value > 0)
    result.notes.push_back(fmt::format("{} left out of the distribution: they have no value of {}.",
                                       counted(counts.values.without_value, "customer"), counts.values.name));
  if (!counts.groups.note.empty()) result.notes.push_back(counts.groups.note);
  if (!counts.distribution.own_bands.empty())
    result.notes.push_back(
        fmt::format("{} of {} are grouped into bands: --bands {}. Give --bands for others.",
                    counted(counts.distribution.different, "different value"), in_quotes(counts.values.name),
                    counts.distribution.own_bands));
  if (!counts.distribution.has_outside) return;
  const std::size_t outside = counts.distribution.places() - 1;
  result.notes.push_back(
      fmt::format("{} outside the bands of --bands. A band includes both its ends; in bands such as "
                  "0-100,100-500 there is no gap between them.",
                  counted(counts.distribution.all(outside), "customer is", "customers are")));
}

void add_checks(const Counts& counts, result::Result& result) {
  const result::Population& population = result.population;
  const OrderFacts all = counts.all_groups();
  const std::uint64_t left_out =
      counts.orders.without_order + (counts.options.include_incomplete ? 0 : counts.orders.incomplete);
  const result::TableColumn& customers = result.tables.front().column("customers");
  std::uint64_t in_rows = 0;
  for (std::size_t row = 0; row < customers.size(); ++row)
    in_rows += static_cast<std::uint64_t>(customers.integer(row));
  result.checks.push_back({fmt::format("the rows and the customers left out add up to all {}",
                                       counted(population.customers, "customer")),
                           in_rows + counts.values.without_value + left_out == population.customers});
  result.checks.push_back(
      {counts.groups.is_split() ? "shares add up to 100% in every group" : "shares add up to 100%",
       shares_add_up(result.tables.front(), counts.groups.names.size())});
  if (!counts.options.within)
    result.checks.push_back(
        {fmt::format("orders of these customers add up to all {}", counted(population.orders, "order")),
         all.orders == population.orders});
}

result::Definitions definitions_of(const Options& options) {
  result::Definitions definitions = {
      {"order", "distinct order id of a customer with at least one line that is not a return"},
      {"ordered again", "placed a second order in the time that counts"},
      {"quantiles", "the smallest value that at least this share of all values does not exceed"}};
  if (options.within)
    definitions.emplace_back(
        "window", fmt::format("days 1 to {} of a customer, where day 1 is the day of the first order",
                              *options.within));
  if (options.count) definitions.emplace_back(options.count->name, options.count->text);
  return definitions;
}

}  // namespace pear::frequency
