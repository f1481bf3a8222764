#include "questions/retention/cohorts.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::retention {
namespace {

void add(Cell& to, const Cell& cell) {
  to.customers += cell.customers;
  to.ordered += cell.ordered;
  to.ordered_again += cell.ordered_again;
  to.orders += cell.orders;
  to.amount.add(cell.amount);
  to.amount_so_far.add(cell.amount_so_far);
}

}  // namespace

void add_beginners(CohortState& cohort, std::vector<Cell>& own, Date first, std::uint64_t customers) {
  cohort.customers += customers;
  cohort.begins = std::min(cohort.begins, first);
  cohort.finished = std::min(cohort.finished, static_cast<std::int32_t>(own.size()));
  if (cohort.cells.size() < own.size()) cohort.cells.resize(own.size());
  DecimalSum so_far;
  std::uint64_t ordered_again = 0;
  for (std::size_t period = 0; period < own.size(); ++period) {
    Cell& cell = own[period];
    so_far.add(cell.amount);
    ordered_again += cell.ordered_again;
    cell.amount_so_far = so_far;
    cell.ordered_again = ordered_again;
    cell.customers = customers;
    add(cohort.cells[period], cell);
  }
}

void merge(CohortState& cohort, const CohortState& more) {
  if (cohort.cells.size() < more.cells.size()) cohort.cells.resize(more.cells.size());
  for (std::size_t period = 0; period < more.cells.size(); ++period)
    add(cohort.cells[period], more.cells[period]);
  cohort.finished = std::min(cohort.finished, more.finished);
  cohort.customers += more.customers;
  cohort.begins = std::min(cohort.begins, more.begins);
}

std::int32_t time_of(CohortKind kind, Date day) {
  constexpr std::int32_t kMonths[] = {1, 3, 12};
  return month_of(day).index / kMonths[static_cast<std::size_t>(kind)];
}

std::vector<std::string> labels_of_times(CohortKind kind, std::int32_t earliest, std::int32_t latest) {
  std::vector<std::string> labels;
  for (std::int32_t time = earliest; time <= latest; ++time)
    labels.push_back(kind == CohortKind::year      ? std::to_string(time)
                     : kind == CohortKind::quarter ? fmt::format("{}-Q{}", time / 4, time % 4 + 1)
                                                   : to_text(Month{time}));
  return labels;
}

OrError<void> check_periods(const Counts& counts) {
  constexpr std::int32_t kMost = 400;
  const std::int32_t longest = counts.options.period.complete(counts.data_begin, counts.data_end);
  if (longest <= kMost) return {};
  return usage_error(
      fmt::format("the data have {} of this length, and a table has at most {}. Choose a longer --period.",
                  counted(static_cast<std::uint64_t>(longest), "period"), kMost));
}

void finish(std::vector<CohortState> states, const std::vector<std::string>& labels, Counts& counts) {
  counts.all.label = "All";
  for (std::size_t i = 0; i < states.size(); ++i) {
    CohortState& each = states[i];
    if (each.customers == 0 && !counts.is_time()) continue;
    if (counts.is_time() && each.customers > 0)
      each.cells.resize(static_cast<std::size_t>(std::max(0, each.finished)));
    if (counts.all.cells.size() < each.cells.size()) counts.all.cells.resize(each.cells.size());
    for (std::size_t period = 0; period < each.cells.size(); ++period)
      add(counts.all.cells[period], each.cells[period]);
    counts.all.customers += each.customers;
    counts.cohorts.push_back({labels[i], each.customers, std::move(each.cells), each.begins});
  }
}

}  // namespace pear::retention
