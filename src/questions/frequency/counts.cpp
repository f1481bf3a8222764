#include "questions/frequency/counts.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/parallel_fold.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "expression/aggregate/grouped.hpp"
#include "statistics/quantile.hpp"

namespace pear::frequency {
namespace {

void add_one(std::vector<std::uint64_t>& counts, std::size_t value) {
  if (counts.size() <= value) counts.resize(value + 1);
  ++counts[value];
}

/// What a run of customers comes to.
struct FrequencyState {
  std::vector<OrderFacts> groups;
  std::uint64_t without_order = 0, incomplete = 0;
  std::vector<std::int32_t> days;  ///< of the customer at hand, between one order and the next
};

void merge(FrequencyState& earlier, const FrequencyState& later) {
  for (std::size_t i = 0; i < earlier.groups.size(); ++i) {
    OrderFacts& facts = earlier.groups[i];
    const OrderFacts& more = later.groups[i];
    facts.customers += more.customers;
    facts.came_back += more.came_back;
    facts.orders += more.orders;
    add_all(facts.days_between, more.days_between);
    add_all(facts.typical_days, more.typical_days);
  }
  earlier.without_order += later.without_order;
  earlier.incomplete += later.incomplete;
}

/// The last day that counts for a customer who began on this one.
std::int64_t last_day(const Options& options, Date first) {
  return options.within ? first.days + *options.within - 1 : std::numeric_limits<std::int32_t>::max();
}

/// Counts the orders of one customer's window.
class OrderCounter {
 public:
  OrderCounter(const analysis::QuestionInput& asked, const Options& options,
               const analysis::CustomerGroups& groups, std::vector<std::uint32_t>& orders)
      : daybook_(asked.daybook),
        days_(asked.daybook.order_days()),
        purchases_(asked.daybook),
        data_end_(asked.data_end),
        options_(options),
        groups_(groups),
        orders_(orders) {}

  void absorb(FrequencyState& state, std::uint32_t customer) const {
    const daybook::Run run = daybook_.orders_of(customer);
    std::uint32_t order = run.begin;
    while (order < run.end && !purchases_.is_order(order)) ++order;
    if (order == run.end) {
      ++state.without_order;
      return;
    }
    const std::int64_t last = last_day(options_, daybook_.date_of_order(order));
    const bool incomplete = options_.within && last > data_end_.days;
    if (incomplete) ++state.incomplete;
    if (incomplete && !options_.include_incomplete) return;
    OrderFacts& facts = state.groups[groups_.group_of(customer)];
    std::int32_t before = days_[order];
    std::uint32_t orders = 1;
    state.days.clear();
    for (++order; order < run.end && days_[order] <= last; ++order) {
      if (!purchases_.is_order(order)) continue;
      ++orders;
      state.days.push_back(days_[order] - before);
      before = days_[order];
      add_one(facts.days_between, static_cast<std::size_t>(state.days.back()));
    }
    orders_[customer] = orders;
    ++facts.customers;
    facts.orders += orders;
    if (orders == 1) return;
    ++facts.came_back;
    add_one(facts.typical_days,
            static_cast<std::size_t>(*statistics::quantile_of(state.days, statistics::kHalf)));
  }

 private:
  const daybook::Daybook& daybook_;
  std::span<const std::int32_t> days_;
  daybook::Purchases purchases_;
  Date data_end_;
  const Options& options_;
  const analysis::CustomerGroups& groups_;
  std::vector<std::uint32_t>& orders_;  ///< each customer's is written once
};

/// Each line's customer, or one behind the last for lines that are not counted.
std::vector<std::uint32_t> customers_of_lines(const analysis::QuestionInput& asked, const Options& options,
                                              const OrderCounts& counts) {
  const daybook::Daybook& daybook = asked.daybook;
  const daybook::Purchases purchases(daybook);
  std::vector<std::uint32_t> customers(daybook.lines(), daybook.customers());
  daybook::walk_lines_in_parallel(daybook, [&](daybook::CustomerRun run) {
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer) {
      if (counts.orders[customer] == 0) continue;
      const daybook::Run orders = daybook.orders_of(customer);
      std::uint32_t first = orders.begin;
      while (!purchases.is_order(first)) ++first;
      const Date began = daybook.date_of_order(first);
      for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
        const std::int32_t day = daybook.date_of_order(order).days;
        if (options.within && (day < began.days || day > last_day(options, began))) continue;
        const daybook::Run lines = daybook.lines_of(order);
        std::fill(customers.begin() + lines.begin, customers.begin() + lines.end, customer);
      }
    }
  });
  return customers;
}

constexpr std::int64_t kMostRows = 200;

/// Numbers that stand for themselves, not for money or measures.
bool is_whole(expression::Measure measure, const std::vector<std::int64_t>& units) {
  return measure == expression::Measure::count ||
         (measure == expression::Measure::number &&
          std::all_of(units.begin(), units.end(), [](std::int64_t value) {
            return value == result::kEmptyCell || value % Decimal::kScale == 0;
          }));
}

/// In rising order, empty cells left out. Small whole numbers, which are the rule, are ticked off rather than
/// sorted.
std::vector<std::int64_t> different_values(const std::vector<std::int64_t>& values) {
  constexpr std::size_t kSmall = 4096;
  std::vector<std::uint8_t> seen(kSmall);
  std::vector<std::int64_t> different, others;
  for (const std::int64_t value : values) {
    if (value >= 0 && value < static_cast<std::int64_t>(kSmall))
      seen[static_cast<std::size_t>(value)] = 1;
    else if (value != result::kEmptyCell)
      others.push_back(value);
  }
  for (std::size_t value = 0; value < kSmall; ++value)
    if (seen[value] != 0) different.push_back(static_cast<std::int64_t>(value));
  different.insert(different.end(), others.begin(), others.end());
  std::sort(different.begin(), different.end());
  different.erase(std::unique(different.begin(), different.end()), different.end());
  return different;
}

OrError<Distribution> numbered(const CustomerValues& values) {
  Distribution distribution;
  distribution.values = different_values(values.values);
  if (values.unit != result::Unit::count || distribution.values.size() > kMostRows) {
    std::vector<std::int64_t> units;
    for (std::uint32_t i = 0; i < values.values.size(); ++i)
      if (values.values[i] != result::kEmptyCell) units.push_back(values.units(i));
    return usage_error(fmt::format(
        "{} has {}. Put them into bands, such as --bands {}", in_quotes(values.name),
        counted(distribution.values.size(), "different value"), analysis::suggested_bands(units)));
  }
  for (const std::int64_t value : distribution.values) distribution.labels.push_back(std::to_string(value));
  return distribution;
}

Distribution banded(const Options& options) {
  Distribution distribution;
  distribution.is_banded = true;
  for (const analysis::ValueBand& band : options.bands) distribution.labels.push_back(band.label);
  return distribution;
}

std::uint32_t place_of(const Distribution& distribution, const CustomerValues& values, const Options& options,
                       std::uint32_t customer) {
  if (distribution.is_banded)
    return analysis::band_of(options.bands, values.units(customer))
        .value_or(static_cast<std::uint32_t>(options.bands.size()));
  const auto found =
      std::lower_bound(distribution.values.begin(), distribution.values.end(), values.values[customer]);
  return static_cast<std::uint32_t>(found - distribution.values.begin());
}

}  // namespace

void add_all(std::vector<std::uint64_t>& to, const std::vector<std::uint64_t>& from) {
  if (to.size() < from.size()) to.resize(from.size());
  for (std::size_t i = 0; i < from.size(); ++i) to[i] += from[i];
}

OrderCounts count_orders(const analysis::QuestionInput& asked, const Options& options,
                         const analysis::CustomerGroups& groups) {
  OrderCounts counts;
  counts.orders.resize(asked.daybook.customers());
  const OrderCounter counter(asked, options, groups, counts.orders);
  FrequencyState state = analysis::fold_customers(
      asked.daybook,
      [&] {
        return FrequencyState{std::vector<OrderFacts>(groups.count), 0, 0, {}};
      },
      [&](FrequencyState& own, std::uint32_t customer) { counter.absorb(own, customer); }, merge);
  counts.groups = std::move(state.groups);
  counts.without_order = state.without_order;
  counts.incomplete = state.incomplete;
  return counts;
}

std::int64_t CustomerValues::units(std::uint32_t customer) const {
  return unit == result::Unit::count ? values[customer] * Decimal::kScale : values[customer];
}

OrError<CustomerValues> customer_values(const analysis::QuestionInput& asked, const Options& options,
                                        const OrderCounts& counts, const expression::LineView& lines) {
  CustomerValues result;
  const std::uint32_t customers = asked.daybook.customers();
  result.values.assign(customers, result::kEmptyCell);
  if (!options.count) {
    for (std::uint32_t i = 0; i < customers; ++i)
      if (counts.orders[i] > 0) result.values[i] = counts.orders[i];
    return result;
  }
  const auto figure = expression::GroupedExpression::compile(*options.count, lines);
  if (!figure) return analysis::in_option("count", figure.error());
  if (figure->type() != expression::ValueType::number)
    return usage_error(fmt::format("--count: {} is no number.", in_quotes(options.count->text)));
  const std::vector<std::uint32_t> groups = customers_of_lines(asked, options, counts);
  std::vector<std::uint32_t> itself(customers + 1);
  for (std::uint32_t i = 0; i <= customers; ++i) itself[i] = i;
  PEAR_ASSIGN(const expression::Values values, figure->by_group({groups, itself, customers + 1}));
  for (std::uint32_t i = 0; i < customers; ++i) {
    if (counts.orders[i] == 0) continue;
    if (values.states[i] == expression::ValueState::filled) result.values[i] = values.numbers[i];
    result.without_value += values.states[i] == expression::ValueState::filled ? 0U : 1U;
  }
  result.name = options.count->name;
  result.unit = is_whole(figure->measure(), result.values)        ? result::Unit::count
                : figure->measure() == expression::Measure::money ? result::Unit::money
                                                                  : result::Unit::number;
  for (std::int64_t& value : result.values)
    if (result.unit == result::Unit::count && value != result::kEmptyCell) value /= Decimal::kScale;
  return result;
}

std::uint64_t Distribution::all(std::size_t place) const {
  std::uint64_t sum = 0;
  for (const auto& of_group : customers) sum += of_group[place];
  return sum;
}

OrError<Distribution> distribute(const CustomerValues& values, const Options& options,
                                 const analysis::CustomerGroups& groups) {
  Distribution distribution;
  if (options.bands.empty()) {
    PEAR_ASSIGN(distribution, numbered(values));
  } else {
    distribution = banded(options);
  }
  distribution.place_of.assign(values.values.size(), expression::kNoMember);
  distribution.customers.assign(groups.count, std::vector<std::uint64_t>(distribution.places() + 1));
  for (std::uint32_t customer = 0; customer < values.values.size(); ++customer) {
    if (values.values[customer] == result::kEmptyCell) continue;
    const std::uint32_t place = place_of(distribution, values, options, customer);
    distribution.place_of[customer] = place;
    ++distribution.customers[groups.group_of(customer)][place];
  }
  const std::size_t outside = distribution.places();
  distribution.has_outside = distribution.is_banded && distribution.all(outside) > 0;
  if (distribution.has_outside) distribution.labels.emplace_back("in no band");
  return distribution;
}

}  // namespace pear::frequency
