#include "questions/retention/counts.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/parallel_fold.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/purchases.hpp"

namespace pear::retention {
namespace {

constexpr std::uint32_t kNoOrder = daybook::kNoMember;
constexpr std::size_t kMostPeriods = 400;

/// The first order of each customer, or kNoOrder.
std::vector<std::uint32_t> first_orders(const daybook::Daybook& daybook) {
  const daybook::Purchases purchases(daybook);
  return daybook::by_customer<std::uint32_t>(daybook, [&](std::uint32_t customer) {
    const daybook::Run orders = daybook.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order)
      if (purchases.is_order(order)) return order;
    return kNoOrder;
  });
}

/// Months, quarters or years, counted from year 0.
std::int32_t time_of(CohortKind kind, Date day) {
  constexpr std::int32_t kMonths[] = {1, 3, 12};
  return month_of(day).index / kMonths[static_cast<std::size_t>(kind)];
}

std::string label_of(CohortKind kind, std::int32_t time) {
  if (kind == CohortKind::year) return std::to_string(time);
  if (kind == CohortKind::quarter) return fmt::format("{}-Q{}", time / 4, time % 4 + 1);
  return to_text(Month{time});
}

/// Cells that grow as far as any customer of the cohort reaches.
struct CohortState {
  std::vector<Cell> cells;
  std::int32_t finished =
      std::numeric_limits<std::int32_t>::max();  ///< periods that are over for all customers
  std::uint64_t customers = 0;
  Date begins{std::numeric_limits<std::int32_t>::max()};
};

struct State {
  std::vector<CohortState> cohorts;
  std::vector<Cell> own;  ///< of the current customer
};

void add(Cell& to, const Cell& cell) {
  to.customers += cell.customers;
  to.ordered += cell.ordered;
  to.ordered_again += cell.ordered_again;
  to.orders += cell.orders;
  to.amount.add(cell.amount);
  to.amount_so_far.add(cell.amount_so_far);
}

void merge(State& earlier, const State& later) {
  for (std::size_t i = 0; i < earlier.cohorts.size(); ++i) {
    CohortState& cohort = earlier.cohorts[i];
    const CohortState& more = later.cohorts[i];
    if (cohort.cells.size() < more.cells.size()) cohort.cells.resize(more.cells.size());
    for (std::size_t period = 0; period < more.cells.size(); ++period)
      add(cohort.cells[period], more.cells[period]);
    cohort.finished = std::min(cohort.finished, more.finished);
    cohort.customers += more.customers;
    cohort.begins = std::min(cohort.begins, more.begins);
  }
}

/// Adds the history of one customer to a cohort.
class HistoryCounter {
 public:
  HistoryCounter(const analysis::QuestionInput& input, const Period& period)
      : daybook_(input.daybook),
        purchases_(input.daybook),
        amounts_(input.daybook.amounts()),
        data_end_(input.data_end),
        period_(period) {}

  void absorb(CohortState& cohort, std::vector<Cell>& own, std::uint32_t customer,
              std::uint32_t first_order) const {
    const Date first = daybook_.date_of_order(first_order);
    const std::int32_t complete = period_.complete(first, data_end_);
    ++cohort.customers;
    cohort.begins = std::min(cohort.begins, first);
    cohort.finished = std::min(cohort.finished, complete);
    const auto periods = static_cast<std::size_t>(std::max(0, complete));
    if (cohort.cells.size() < periods) cohort.cells.resize(periods);
    own.assign(periods, {});
    std::int32_t second = complete;
    std::uint32_t orders = 0;
    for (std::uint32_t order = first_order; order < daybook_.orders_of(customer).end; ++order) {
      const std::int32_t period = period_.of(first, daybook_.date_of_order(order));
      if (period >= complete) break;
      Cell& cell = own[static_cast<std::size_t>(period)];
      cell.amount.add(amount_of(order));
      if (!purchases_.is_order(order)) continue;
      if (++orders == 2) second = period;
      ++cell.orders;
      cell.ordered = 1;
    }
    DecimalSum so_far;
    for (std::size_t period = 0; period < periods; ++period) {
      Cell& cell = own[period];
      so_far.add(cell.amount);
      cell.amount_so_far = so_far;
      cell.customers = 1;
      cell.ordered_again = static_cast<std::int32_t>(period) >= second ? 1 : 0;
      add(cohort.cells[period], cell);
    }
  }

 private:
  [[nodiscard]] DecimalSum amount_of(std::uint32_t order) const {
    DecimalSum sum;
    const daybook::Run lines = daybook_.lines_of(order);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line)
      sum.add(Decimal::from_units(amounts_[line]));
    return sum;
  }

  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  std::span<const std::int64_t> amounts_;
  Date data_end_;
  const Period& period_;
};

/// The cohort of each customer, and the labels of the cohorts.
struct Cohorts {
  std::vector<std::uint32_t> of_customer;
  std::vector<std::string> labels;
};

Cohorts cohorts_by_time(const daybook::Daybook& daybook, const std::vector<std::uint32_t>& first,
                        CohortKind kind) {
  std::int32_t earliest = std::numeric_limits<std::int32_t>::max(),
               latest = std::numeric_limits<std::int32_t>::min();
  const auto time_of_customer = [&](std::uint32_t customer) {
    return time_of(kind, daybook.date_of_order(first[customer]));
  };
  for (std::uint32_t customer = 0; customer < first.size(); ++customer) {
    if (first[customer] == kNoOrder) continue;
    earliest = std::min(earliest, time_of_customer(customer));
    latest = std::max(latest, time_of_customer(customer));
  }
  Cohorts cohorts;
  for (std::int32_t time = earliest; time <= latest; ++time) cohorts.labels.push_back(label_of(kind, time));
  for (std::uint32_t customer = 0; customer < first.size(); ++customer)
    cohorts.of_customer.push_back(
        first[customer] == kNoOrder ? 0 : static_cast<std::uint32_t>(time_of_customer(customer) - earliest));
  return cohorts;
}

/// Cohorts with the cells that are finished, and all of them together.
void finish(std::vector<CohortState> states, const Cohorts& cohorts, Counts& counts) {
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
    counts.cohorts.push_back({cohorts.labels[i], each.customers, std::move(each.cells), each.begins});
  }
}

}  // namespace

std::string Counts::cohort_noun() const {
  constexpr const char* kTimes[] = {"month", "quarter", "year"};
  return is_time() ? fmt::format("{} of the first order", kTimes[static_cast<std::size_t>(options.cohort)])
                   : groups.noun();
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  Counts counts{options, {}, {}, {}, 0, *input.population.first_date, input.data_end};
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(counts.groups, analysis::group_customers(options.columns, lines, "cohort"));
  const std::vector<std::uint32_t> first = first_orders(input.daybook);
  counts.without_order = static_cast<std::uint64_t>(std::count(first.begin(), first.end(), kNoOrder));
  Cohorts cohorts;
  if (counts.is_time()) {
    cohorts = cohorts_by_time(input.daybook, first, options.cohort);
  } else {
    for (std::uint32_t group = 0; group < counts.groups.count; ++group)
      cohorts.labels.push_back(counts.groups.label(group));
    for (std::uint32_t customer = 0; customer < first.size(); ++customer)
      cohorts.of_customer.push_back(counts.groups.group_of(customer));
  }
  const std::int32_t longest = options.period.complete(counts.data_begin, input.data_end);
  if (longest > static_cast<std::int32_t>(kMostPeriods))
    return usage_error(
        fmt::format("the data have {} of this length, and a table has at most {}. Choose a longer "
                    "--period.",
                    counted(static_cast<std::uint64_t>(longest), "period"), kMostPeriods));
  const HistoryCounter counter(input, options.period);
  State state = analysis::fold_customers(
      input.daybook,
      [&] {
        return State{std::vector<CohortState>(cohorts.labels.size()), {}};
      },
      [&](State& own, std::uint32_t customer) {
        if (first[customer] != kNoOrder)
          counter.absorb(own.cohorts[cohorts.of_customer[customer]], own.own, customer, first[customer]);
      },
      merge);
  finish(std::move(state.cohorts), cohorts, counts);
  return counts;
}

}  // namespace pear::retention
