#include "questions/first/finding.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "statistics/quantile.hpp"

namespace pear::first {
namespace {

std::string customers_headline(const Counts& counts) {
  const std::uint64_t customers = counts.customers.size();
  std::vector<std::int64_t> days;
  for (const FirstOrders& each : counts.beginnings)
    if (each.second != daybook::kNoMember)
      days.push_back(
          days_between(counts.daybook.date_of_order(each.first), counts.daybook.date_of_order(each.second)));
  const std::uint64_t ordered_again = days.size();
  const auto median =
      static_cast<std::uint64_t>(statistics::quantile_of(days, statistics::kHalf).value_or(0));
  const std::string within =
      median == 0 ? "on the same day" : fmt::format("within {}", counted(median, "day"));
  if (customers == 1)
    return fmt::format(
        "1 customer placed a first order{}.",
        ordered_again == 0 ? " and has not ordered again" : fmt::format(", and ordered again {}", within));
  const std::string again = ordered_again == 0
                                ? "none of them ordered again"
                                : fmt::format("{} of them ({}) ordered again, half of these {}",
                                              with_thousands(static_cast<std::int64_t>(ordered_again)),
                                              analysis::per_cent(ordered_again, customers), within);
  return fmt::format("{} placed a first order; {}.", counted(customers, "customer"), again);
}

/// The entries whose customers order again significantly more, or less, often than all. Empty if none has
/// enough customers.
std::string entry_headline(const Counts& counts) {
  const Entries& entries = counts.entries;
  const std::vector<Entry> enough = counts.comparable_entries();
  if (enough.size() < 2) return "";
  const auto [best, worst] = extremes_of(entries, enough);
  const std::string whole = analysis::per_cent(entries.ordered_again, entries.judged);
  if (!best && !worst)
    return fmt::format("Within {1}, {2} of new customers ordered again; no entry {0} differs significantly.",
                       counts.entry_noun(), counts.followed(), whole);
  const auto who = [&](const Entry& entry) {
    return fmt::format("{}: {} of {}", counts.label(entry),
                       analysis::per_cent(entry.ordered_again, entry.judged),
                       counted(entry.judged, "customer"));
  };
  std::string extremes;
  if (best)
    extremes += fmt::format(" Significantly more after entry {} {}.", counts.entry_noun(), who(*best));
  if (worst) extremes += fmt::format(" Significantly fewer after {}.", who(*worst));
  return fmt::format("Within {}, {} of new customers ordered again.{}", counts.followed(), whole, extremes);
}

std::string best_month(const std::vector<MonthFacts>& months) {
  const auto by_customers = [](const MonthFacts& a, const MonthFacts& b) {
    return a.new_customers < b.new_customers;
  };
  const MonthFacts& best = *std::max_element(months.begin(), months.end(), by_customers);
  std::vector<std::string> ties;
  for (const MonthFacts& facts : months)
    if (facts.new_customers == best.new_customers) ties.push_back(to_text(facts.month));
  const std::string month = to_text(best.month);
  if (months.size() == 1)
    return best.new_customers == 1
               ? fmt::format("The only customer placed the first order in {}.", month)
               : fmt::format("All {} placed their first order in {}.",
                             counted(static_cast<std::uint64_t>(best.new_customers), "customer"), month);
  constexpr std::size_t kMostNamed = 3;
  if (ties.size() > 1)
    return fmt::format("{} had the most new customers: {} each.",
                       ties.size() > kMostNamed ? counted(ties.size(), "month") : join(ties, " and "),
                       with_thousands(best.new_customers));
  return fmt::format("The month with the most new customers was {}: {}.", month,
                     with_thousands(best.new_customers));
}

std::string best_group(const Counts& counts) {
  std::vector<std::int64_t> customers(counts.groups.count);
  for (const MonthFacts& facts : counts.months) customers[facts.group] += facts.new_customers;
  const auto best = std::max_element(customers.begin(), customers.end());
  return fmt::format("Most new customers by {}: {}, with {} of {}.", counts.groups.noun(),
                     counts.groups.label(static_cast<std::uint32_t>(best - customers.begin())),
                     with_thousands(*best),
                     with_thousands(static_cast<std::int64_t>(counts.customers.size())));
}

}  // namespace

EntryExtremes extremes_of(const Entries& entries, const std::vector<Entry>& compared) {
  const double all = static_cast<double>(entries.ordered_again) / static_cast<double>(entries.judged);
  EntryExtremes extremes;
  double highest = all, lowest = all;
  for (const Entry& entry : compared) {
    const statistics::Interval interval = statistics::wilson_interval(entry.ordered_again, entry.judged);
    if (interval.low > highest) extremes.best = entry, highest = interval.low;
    if (interval.high < lowest) extremes.worst = entry, lowest = interval.high;
  }
  return extremes;
}

std::string months_sentence(const Counts& counts) {
  return counts.groups.is_split() ? best_group(counts) : best_month(counts.months);
}

std::vector<std::string> headline_of(const Counts& counts) {
  if (counts.customers.empty()) return {"No customer placed an order."};
  std::vector<std::string> headline = {customers_headline(counts), months_sentence(counts)};
  const std::string entry = entry_headline(counts);
  if (!entry.empty()) headline.push_back(entry);
  return headline;
}

void add_notes(const Counts& counts, const analysis::QuestionInput& input, result::Result& result) {
  const std::uint64_t without = result.population.customers - counts.customers.size();
  if (without > 0)
    result.notes.push_back(
        fmt::format("{} left out: they have returns but no order.", counted(without, "customer")));
  if (counts.customers.empty()) return;
  const std::string begins = to_text(*input.population.first_date);
  result.notes.push_back(fmt::format(
      "{} on {}, so customers who bought before that day count as new at their first order since.",
      input.whole ? "The selection begins" : "The data begins", begins));
  const std::uint64_t too_new = counts.entries.customers - counts.entries.judged;
  if (too_new > 0)
    result.notes.push_back(
        fmt::format("{} left out of the repeat rates by entry {}, because their first {} end after the last "
                    "day of data, {}.",
                    counted(too_new, "customer is", "customers are"), counts.entry_noun(), counts.followed(),
                    to_text(input.data_end)));
}

void add_checks(const Counts& counts, result::Result& result) {
  std::uint64_t with_order = 0, orders = 0, in_months = 0;
  DecimalSum amounts;
  for (const FirstOrders& each : counts.beginnings) {
    with_order += each.has_order() ? 1U : 0U;
    orders += each.orders;
    amounts.add(Decimal::from_units(each.amount));
  }
  const std::uint64_t without = result.population.customers - with_order;
  result.checks.push_back({fmt::format("the rows and the customers without an order add up to all {}",
                                       counted(result.population.customers, "customer")),
                           counts.customers.size() + without == result.population.customers});
  result.checks.push_back({fmt::format("orders add up to all {}", counted(result.population.orders, "order")),
                           orders == result.population.orders});
  const auto total = amounts.total();
  result.checks.push_back(
      {fmt::format("amounts add up to the total of all lines, {}",
                   total ? with_thousands(*total) : fmt::format("{:.0f}", amounts.approximate())),
       total == result.population.amount});
  if (counts.customers.empty()) return;
  for (const MonthFacts& facts : counts.months) in_months += static_cast<std::uint64_t>(facts.new_customers);
  result.checks.push_back({fmt::format("new customers of all months add up to {}",
                                       with_thousands(static_cast<std::int64_t>(counts.entries.customers))),
                           in_months == counts.entries.customers});
}

result::Definitions definitions_of(const Options& options) {
  return {{"first order",
           "the earliest by date, time of day and order id with at least one line that is not a return"},
          {"amounts", "of all lines of the selection, net of returns"},
          {"ordered again",
           fmt::format("placed a second order on days 1 to {}, where day 1 is the day of the first order; "
                       "among customers for whom all these days are within the data",
                       options.follow)},
          {"intervals", "95% Wilson score intervals"}};
}

}  // namespace pear::first
