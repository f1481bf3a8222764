#include "questions/retention/counts.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/parallel_fold.hpp"
#include "analysis/wording.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/purchases.hpp"
#include "questions/retention/cohorts.hpp"

namespace pear::retention {
namespace {

constexpr std::uint32_t kNoOrder = daybook::kNoMember;

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

struct State {
  std::vector<CohortState> cohorts;
  std::vector<Cell> own;  ///< of the current customer
};

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
    own.assign(static_cast<std::size_t>(std::max(0, complete)), {});
    std::uint32_t orders = 0;
    // Returns on the first day count, whether their order sorts before the first one or after it.
    std::uint32_t order = first_order;
    while (order > daybook_.orders_of(customer).begin && daybook_.date_of_order(order - 1) == first) --order;
    for (; order < daybook_.orders_of(customer).end; ++order) {
      const std::int32_t period = period_.of(first, daybook_.date_of_order(order));
      if (period >= complete) break;
      Cell& cell = own[static_cast<std::size_t>(period)];
      cell.amount.add(amount_of(order));
      if (!purchases_.is_order(order)) continue;
      if (++orders == 2) cell.ordered_again = 1;
      ++cell.orders;
      cell.ordered = 1;
    }
    add_beginners(cohort, own, first, 1);
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
  cohorts.labels = labels_of_times(kind, earliest, latest);
  for (std::uint32_t customer = 0; customer < first.size(); ++customer)
    cohorts.of_customer.push_back(
        first[customer] == kNoOrder ? 0 : static_cast<std::uint32_t>(time_of_customer(customer) - earliest));
  return cohorts;
}

}  // namespace

std::string Counts::cohort_noun() const {
  constexpr const char* kTimes[] = {"month", "quarter", "year"};
  return is_time() ? fmt::format("{} of the first order", kTimes[static_cast<std::size_t>(options.cohort)])
                   : groups.noun();
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  Counts counts{
      options, {}, {}, {}, 0, *input.population.first_date, input.data_end, input.population.one_in > 0};
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
  PEAR_TRY(check_periods(counts));
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
      [](State& earlier, const State& later) {
        for (std::size_t i = 0; i < earlier.cohorts.size(); ++i) merge(earlier.cohorts[i], later.cohorts[i]);
      });
  finish(std::move(state.cohorts), cohorts.labels, counts);
  return counts;
}

}  // namespace pear::retention
