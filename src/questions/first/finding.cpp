#include "questions/first/finding.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "statistics/quantile.hpp"
#include "statistics/significance.hpp"

namespace pear::first {
namespace {

/// "858 of them (77.4%) ordered again, half of these within 51 days"
std::string again_text(std::uint64_t customers, std::vector<std::int64_t>& days) {
  const std::uint64_t ordered_again = days.size();
  const auto median =
      static_cast<std::uint64_t>(statistics::quantile_of(days, statistics::kHalf).value_or(0));
  const std::string within =
      median == 0 ? "on the same day" : fmt::format("within {}", counted(median, "day"));
  if (customers == 1)
    return ordered_again == 0 ? "who has not ordered again" : fmt::format("who ordered again {}", within);
  return ordered_again == 0
             ? "none of them ordered again"
             : fmt::format("{} of them ({}) ordered again, half of these {}", analysis::number(ordered_again),
                           analysis::per_cent(ordered_again, customers), within);
}

std::string customers_headline(const Counts& counts) {
  const std::uint64_t customers = counts.entries.customers;
  std::vector<std::int64_t> days;
  for (const FirstOrders& each : counts.beginnings)
    if (each.is_new && each.second != daybook::kNoMember)
      days.push_back(days_between(counts.daybook().date_of_order(each.first),
                                  counts.daybook().date_of_order(each.second)));
  if (customers == 0)
    return fmt::format("Nobody placed a first order after the run-in of {}.",
                       counted(static_cast<std::uint64_t>(counts.run_in), "day"));
  return fmt::format("{}{} {}.", counted(customers, "new customer"), customers == 1 ? "," : ";",
                     again_text(customers, days));
}

/// The entries whose customers order again significantly more, or less, often than all. Empty if none has
/// enough customers.
std::string entry_headline(const Counts& counts) {
  const Entries& entries = counts.entries;
  const std::vector<Entry> enough = counts.comparable_entries();
  if (enough.size() < 2) return "";
  const auto [best, worst] = extremes_of(entries, enough);
  const std::string whole = analysis::per_cent(entries.ordered_again, entries.followed);
  if (!best && !worst)
    return fmt::format("Within {1}, {2} of new customers ordered again; no entry {0} differs significantly.",
                       counts.entry_noun(), counts.followed(), whole);
  const auto who = [&](const Entry& entry) {
    return fmt::format("{}: {} of {}", counts.label(entry),
                       analysis::per_cent(entry.ordered_again, entry.followed),
                       counted(entry.followed, "customer"));
  };
  std::string extremes;
  if (best)
    extremes += fmt::format(" Significantly more after entry {} {}.", counts.entry_noun(), who(*best));
  if (worst) extremes += fmt::format(" Significantly fewer after {}.", who(*worst));
  return fmt::format("Within {}, {} of new customers ordered again.{}", counts.followed(), whole, extremes);
}

/// Whether the largest of the months is significantly above that of equally likely months: binomial, adjusted
/// for their number (Bonferroni).
bool is_peak(const std::vector<MonthFacts>& months, std::int64_t most) {
  std::int64_t all = 0;
  for (const MonthFacts& facts : months) all += facts.new_customers;
  const double p_value =
      statistics::probability_of_at_least(static_cast<std::uint64_t>(most), static_cast<std::uint64_t>(all),
                                          1.0 / static_cast<double>(months.size()));
  return p_value * static_cast<double>(months.size()) <= 0.05;
}

std::string best_month(const std::vector<MonthFacts>& months) {
  const auto by_customers = [](const MonthFacts& a, const MonthFacts& b) {
    return a.new_customers < b.new_customers;
  };
  const MonthFacts& best = *std::max_element(months.begin(), months.end(), by_customers);
  std::int64_t all = 0;
  std::vector<std::string> ties;
  for (const MonthFacts& facts : months) {
    all += facts.new_customers;
    if (facts.new_customers == best.new_customers) ties.push_back(to_text(facts.month));
  }
  const std::string month = to_text(best.month);
  if (months.size() == 1)
    return best.new_customers == 1
               ? fmt::format("The only new customer placed the first order in {}.", month)
               : fmt::format("All {} placed their first order in {}.",
                             counted(static_cast<std::uint64_t>(best.new_customers), "new customer"), month);
  const double average = static_cast<double>(all) / static_cast<double>(months.size());
  if (!is_peak(months, best.new_customers))
    return fmt::format("{:.{}f} new customers a month on average; no month has significantly more.", average,
                       average < 9.95 ? 1 : 0);
  return fmt::format("Most new customers came in {}: {}{}, compared with {:.{}f} in an average month.",
                     join(ties, " and "), with_thousands(best.new_customers), ties.size() > 1 ? " each" : "",
                     average, average < 9.95 ? 1 : 0);
}

std::string best_group(const Counts& counts) {
  std::vector<std::int64_t> customers(counts.groups.count);
  for (const MonthFacts& facts : counts.months) customers[facts.group] += facts.new_customers;
  const auto best = std::max_element(customers.begin(), customers.end());
  return fmt::format("Most new customers by {}: {}, with {} of {}.", counts.groups.noun(),
                     counts.groups.label(static_cast<std::uint32_t>(best - customers.begin())),
                     with_thousands(*best),
                     with_thousands(static_cast<std::int64_t>(counts.entries.customers)));
}

}  // namespace

EntryExtremes extremes_of(const Entries& entries, const std::vector<Entry>& compared) {
  const double all = static_cast<double>(entries.ordered_again) / static_cast<double>(entries.followed);
  EntryExtremes extremes;
  double highest = 0, lowest = 1;
  for (const Entry& entry : compared) {
    if (!entry.is_significant()) continue;
    const statistics::Interval interval = entry.interval();
    if (entry.share() > all && interval.low > highest) extremes.best = entry, highest = interval.low;
    if (entry.share() < all && interval.high < lowest) extremes.worst = entry, lowest = interval.high;
  }
  return extremes;
}

std::string months_sentence(const Counts& counts) {
  return counts.groups.is_split() ? best_group(counts) : best_month(counts.months);
}

std::vector<std::string> headline_of(const Counts& counts) {
  if (counts.customers.empty()) return {"No customer placed an order."};
  std::vector<std::string> headline = {customers_headline(counts)};
  if (counts.entries.customers == 0) return headline;
  headline.push_back(months_sentence(counts));
  const std::string entry = entry_headline(counts);
  if (!entry.empty()) headline.push_back(entry);
  return headline;
}

namespace {

/// Why the run-in is so long, if it was not given.
std::string run_in_reason(const Counts& counts, Date begin, Date end) {
  return counts.run_in == longest_run_in(begin, end)
             ? " (a third of the data)"
             : " (9 of 10 orders follow the previous one within these days)";
}

}  // namespace

void add_notes(const Counts& counts, result::Result& result) {
  const analysis::QuestionInput& input = counts.input;
  if (!counts.groups.note.empty()) result.notes.push_back(counts.groups.note);
  const std::uint64_t without = result.population.customers - counts.customers.size();
  if (without > 0)
    result.notes.push_back(
        fmt::format("{} left out: they have returns but no order.", counted(without, "customer")));
  if (counts.customers.empty()) return;
  const std::string begins = fmt::format("{} on {}", input.whole ? "the selection begins" : "the data begins",
                                         to_text(*input.population.first_date));
  const std::uint64_t known = counts.customers.size() - counts.entries.customers;
  if (counts.run_in == 0)
    result.notes.push_back(fmt::format(
        "Without a run-in period, customers who bought before {} count as new at their first order since.",
        begins));
  else
    result.notes.push_back(fmt::format(
        "{} not called new: {}, and their first order is within the run-in of {}{}. --run-in changes it.",
        counted(known, "customer is", "customers are"), begins,
        counted(static_cast<std::uint64_t>(counts.run_in), "day"),
        counts.options.run_in ? "" : run_in_reason(counts, *input.population.first_date, input.data_end)));
  const std::uint64_t too_new = counts.entries.customers - counts.entries.followed;
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
  result.checks.push_back(
      {fmt::format("new customers of all months add up to {}", analysis::number(counts.entries.customers)),
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
          {"new customers", "their first order is after the run-in period"},
          {"intervals", "95% Wilson score intervals"},
          {"q_value",
           "of the difference to the repeat rate of all other new customers: Fisher's exact test, "
           "false discovery rate over the entries compared"}};
}

}  // namespace pear::first
