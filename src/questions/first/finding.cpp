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
  const std::uint64_t came_back = days.size();
  const auto median =
      static_cast<std::uint64_t>(statistics::quantile_of(days, statistics::kHalf).value_or(0));
  const std::string within =
      median == 0 ? "on the same day" : fmt::format("within {}", counted(median, "day"));
  if (customers == 1)
    return fmt::format(
        "1 customer placed a first order{}.",
        came_back == 0 ? " and has not ordered again" : fmt::format(", and ordered again {}", within));
  const std::string again = came_back == 0 ? "none of them ordered again"
                                           : fmt::format("{} of them ({}) ordered again, half of these {}",
                                                         with_thousands(static_cast<std::int64_t>(came_back)),
                                                         analysis::per_cent(came_back, customers), within);
  return fmt::format("{} placed a first order; {}.", counted(customers, "customer"), again);
}

/// Which entries' customers come back more, or less, often than all. Empty where none has enough customers.
std::string entry_headline(const Counts& counts) {
  const Entries& entries = counts.entries;
  const std::vector<Entry> enough = counts.comparable_entries();
  if (enough.size() < 2) return "";
  const auto [best, worst] = extremes_of(entries, enough);
  const std::string whole = analysis::per_cent(entries.came_back, entries.judged);
  if (!best && !worst)
    return fmt::format("No entry {} stands out: within {}, {} of all customers came back.",
                       counts.entry_noun(), counts.followed(), whole);
  const auto who = [&](const Entry& entry) {
    return fmt::format("those who began with {}: {} of {}", counts.label(entry),
                       analysis::per_cent(entry.came_back, entry.judged), counted(entry.judged, "customer"));
  };
  std::string text = fmt::format("Within {}, {} of all customers came back", counts.followed(), whole);
  if (best) text += "; clearest above that, " + who(*best);
  if (worst) text += "; clearest below, " + who(*worst);
  return text + ".";
}

std::string best_month(const std::vector<MonthFacts>& months) {
  const auto by_customers = [](const MonthFacts& a, const MonthFacts& b) {
    return a.new_customers < b.new_customers;
  };
  const MonthFacts& best = *std::max_element(months.begin(), months.end(), by_customers);
  const auto ties = std::count_if(months.begin(), months.end(), [&](const MonthFacts& facts) {
    return facts.new_customers == best.new_customers;
  });
  const std::string month = to_text(best.month);
  if (months.size() == 1)
    return best.new_customers == 1
               ? fmt::format("The only customer began in {}.", month)
               : fmt::format("All {} began in {}.",
                             counted(static_cast<std::uint64_t>(best.new_customers), "customer"), month);
  if (ties > 1)
    return fmt::format("{} months had the most new customers: {} each.", ties,
                       with_thousands(best.new_customers));
  return fmt::format("More customers began in {} than in any other month: {}.", month,
                     with_thousands(best.new_customers));
}

std::string best_group(const Counts& counts) {
  std::vector<std::int64_t> customers(counts.groups.count);
  for (const MonthFacts& facts : counts.months) customers[facts.group] += facts.new_customers;
  const auto best = std::max_element(customers.begin(), customers.end());
  return fmt::format("Most new customers are of {} {}: {} of {}.", counts.groups.noun(),
                     counts.groups.label(static_cast<std::uint32_t>(best - customers.begin())),
                     with_thousands(*best),
                     with_thousands(static_cast<std::int64_t>(counts.customers.size())));
}

}  // namespace

EntryExtremes extremes_of(const Entries& entries, const std::vector<Entry>& compared) {
  const double all = static_cast<double>(entries.came_back) / static_cast<double>(entries.judged);
  EntryExtremes extremes;
  double highest = all, lowest = all;
  for (const Entry& entry : compared) {
    const statistics::Interval interval = statistics::wilson_interval(entry.came_back, entry.judged);
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
        fmt::format("{} left out: they have returns and no order.", counted(without, "customer")));
  if (counts.customers.empty()) return;
  const std::string begins = to_text(*input.population.first_date);
  result.notes.push_back(
      fmt::format("{} on {}; whoever bought before that day counts as new at the first order since.",
                  input.whole ? "What is selected begins" : "The data begins", begins));
  const std::uint64_t too_new = counts.entries.customers - counts.entries.judged;
  if (too_new > 0)
    result.notes.push_back(fmt::format(
        "{} too new to judge: their first {} are not wholly within the data, which ends on {}. They are "
        "left out of who came back by entry {}.",
        counted(too_new, "customer is", "customers are"), counts.followed(), to_text(input.data_end),
        counts.entry_noun()));
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
  result.checks.push_back({fmt::format("the rows and the customers without order add up to all {}",
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
          {"amounts", "of all lines of the selection, returns taken off"},
          {"came back",
           fmt::format("placed a second order on days 1 to {}, day 1 being that of the first order; of "
                       "customers for whom these days lie wholly within the data",
                       options.follow)},
          {"intervals", "95% Wilson score intervals"}};
}

}  // namespace pear::first
