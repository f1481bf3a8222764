#include "questions/retention/finding.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/retention/tables.hpp"
#include "statistics/significance.hpp"

namespace pear::retention {
namespace {

constexpr double kSignificant = 0.05;

/// "after 3 months": at the end of a period.
std::string after(const Counts& counts, std::size_t period) {
  const Period& length = counts.options.period;
  if (length.by_calendar) return fmt::format("by the end of calendar {} {}", length.name(), period);
  const std::size_t over = period + 1;
  return length.kind == PeriodKind::days
             ? fmt::format("within {}", counted(over * static_cast<std::size_t>(length.days), "day"))
             : fmt::format("within {}", counted(over, length.name()));
}

/// Periods 1, 3 and 12 of the trade, as far as any cohort has finished them: after 1, 3 and 12 months.
std::vector<std::size_t> periods_to_name(const Counts& counts) {
  std::vector<std::size_t> named;
  for (const std::size_t period : {std::size_t{1}, std::size_t{3}, std::size_t{12}}) {
    const std::size_t index = counts.options.period.by_calendar ? period : period - 1;
    if (index < counts.periods() && counts.all.cells[index].customers > 0) named.push_back(index);
  }
  return named;
}

std::string repeat_rates(const Counts& counts) {
  std::vector<std::string> rates;
  for (const std::size_t period : periods_to_name(counts)) {
    const Cell& cell = counts.all.cells[period];
    rates.push_back(fmt::format("{}{} {}", analysis::per_cent(cell.ordered_again, cell.customers),
                                rates.empty() ? " of the customers ordered again" : "",
                                after(counts, period)));
  }
  if (rates.empty())
    return fmt::format("No cohort has finished its first {} yet.", counts.options.period.noun());
  std::string list = rates.front();
  for (std::size_t i = 1; i < rates.size(); ++i) list += (i + 1 == rates.size() ? " and " : ", ") + rates[i];
  return list + ".";
}

/// Customers and those who ordered again by the end of a period, of some cohorts.
struct Repeaters {
  std::uint64_t customers = 0, ordered_again = 0;
  std::string first, last;  ///< cohorts
};

Repeaters repeaters(const Counts& counts, std::size_t begin, std::size_t end, std::size_t period) {
  Repeaters sum;
  for (std::size_t i = begin; i < end; ++i) {
    const Cohort& cohort = counts.cohorts[i];
    if (period >= cohort.cells.size() || cohort.cells[period].customers == 0) continue;
    sum.customers += cohort.cells[period].customers;
    sum.ordered_again += cohort.cells[period].ordered_again;
    if (sum.first.empty()) sum.first = cohort.label;
    sum.last = cohort.label;
  }
  return sum;
}

/// The cohorts that may be compared by the end of a period, as positions [first, last): they have finished
/// it, and began at least as long after the data. Earlier ones are partly customers who ordered before the
/// data begin, and who order again more often than new ones.
std::pair<std::size_t, std::size_t> comparable(const Counts& counts, std::size_t period) {
  std::size_t first = counts.cohorts.size(), last = 0;
  for (std::size_t i = 0; i < counts.cohorts.size(); ++i) {
    const Cohort& cohort = counts.cohorts[i];
    if (period >= cohort.cells.size() || cohort.cells[period].customers == 0) continue;
    if (counts.options.period.of(counts.data_begin, cohort.begins) <= static_cast<std::int32_t>(period))
      continue;
    first = std::min(first, i);
    last = i + 1;
  }
  return {std::min(first, last), last};
}

/// The older half of the cohorts against the newer half.
std::string newer_and_older(const Counts& counts, std::size_t period) {
  const auto [first, last] = comparable(counts, period);
  const std::size_t middle = first + (last - first) / 2;
  const Repeaters older = repeaters(counts, first, middle, period),
                  newer = repeaters(counts, middle, last, period);
  if (older.customers == 0 || newer.customers == 0) return "";
  const double p =
      statistics::fisher_test(newer.ordered_again, newer.customers, newer.ordered_again + older.ordered_again,
                              newer.customers + older.customers);
  const std::string rates =
      fmt::format("{} of those who began in {} to {} ordered again {}, and {} of those who began in {} to {}",
                  analysis::per_cent(newer.ordered_again, newer.customers), newer.first, newer.last,
                  after(counts, period), analysis::per_cent(older.ordered_again, older.customers),
                  older.first, older.last);
  if (p > kSignificant) return fmt::format("Newer and older cohorts do not differ significantly: {}.", rates);
  const bool better =
      share_of(newer.ordered_again, newer.customers) > share_of(older.ordered_again, older.customers);
  return fmt::format("Newer cohorts do {} than older ones: {}. The difference is significant.",
                     better ? "better" : "worse", rates);
}

std::string amount_per_customer(const Counts& counts, const std::string& currency) {
  const auto named = periods_to_name(counts);
  if (named.empty()) return "";
  const Cell& cell = counts.all.cells[named.back()];
  const std::int64_t amount = per_customer(cell.amount_so_far, cell.customers);
  if (amount == result::kEmptyCell) return "";
  return fmt::format("A customer brought in {} {}, on average.",
                     analysis::rounded_money_text(amount, currency), after(counts, named.back()));
}

}  // namespace

result::Definitions definitions_of(const Options& options) {
  return {{"period",
           fmt::format("a {} since the customer's first order; period 0 contains it", options.period.noun())},
          {"ordered", "customers with an order in the period; orders that contain only returns do not count"},
          {"finished", options.cohort == CohortKind::column
                           ? "each period counts the customers for whom it is over"
                           : "a cohort has finished a period when it is over for all its customers"},
          {"amount", "net of returns"}};
}

std::optional<std::size_t> compared_period(const Counts& counts) {
  if (!counts.is_time()) return std::nullopt;
  constexpr std::size_t kFewestCohorts = 4;
  std::optional<std::size_t> best;
  for (const std::size_t period : periods_to_name(counts))
    if (const auto [first, last] = comparable(counts, period); last - first >= kFewestCohorts) best = period;
  return best;
}

std::vector<std::string> headline_of(const Counts& counts, const std::string& currency) {
  std::vector<std::string> headline = {repeat_rates(counts)};
  if (const auto period = compared_period(counts))
    if (std::string sentence = newer_and_older(counts, *period); !sentence.empty())
      headline.push_back(std::move(sentence));
  if (std::string sentence = amount_per_customer(counts, currency); !sentence.empty())
    headline.push_back(std::move(sentence));
  return headline;
}

void add_notes(const Counts& counts, result::Result& result) {
  if (counts.without_order > 0)
    result.notes.push_back(fmt::format("{} left out: they have returns but no order.",
                                       counted(counts.without_order, "customer")));
  if (!counts.groups.note.empty()) result.notes.push_back(counts.groups.note);
  if (counts.is_time())
    result.notes.push_back(
        fmt::format("The data begins on {}: customers of the first cohorts may have ordered before, and are "
                    "not new then.",
                    to_text(counts.data_begin)));
}

void add_checks(const Counts& counts, result::Result& result) {
  std::uint64_t customers = counts.without_order;
  for (const Cohort& cohort : counts.cohorts) customers += cohort.customers;
  result.checks.push_back({fmt::format("the cohorts and the customers left out add up to all {}",
                                       counted(result.population.customers, "customer")),
                           customers == result.population.customers});
  const bool all_ordered =
      std::all_of(counts.cohorts.begin(), counts.cohorts.end(), [](const Cohort& cohort) {
        return cohort.cells.empty() || cohort.cells.front().ordered == cohort.cells.front().customers;
      });
  result.checks.push_back({"all customers ordered in period 0", all_ordered});
}

}  // namespace pear::retention
