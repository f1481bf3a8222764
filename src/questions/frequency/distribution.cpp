#include "questions/frequency/distribution.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::frequency {
namespace {

/// Each line's customer, or the number of customers for lines that are not counted.
std::vector<std::uint32_t> customers_of_lines(const analysis::QuestionInput& input, const Options& options,
                                              const OrderCounts& tallies) {
  const daybook::Daybook& daybook = input.daybook;
  const daybook::Purchases purchases(daybook);
  std::vector<std::uint32_t> customers(daybook.lines(), daybook.customers());
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer) {
      if (tallies.orders[customer] == 0) continue;
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

constexpr std::size_t kMostRows = 200;

/// Numbers without a unit, not money or measures.
bool is_whole(expression::Measure measure, const std::vector<std::int64_t>& units) {
  return measure == expression::Measure::count ||
         (measure == expression::Measure::number &&
          std::all_of(units.begin(), units.end(), [](std::int64_t value) {
            return value == result::kEmptyCell || value % Decimal::kScale == 0;
          }));
}

/// In rising order, without empty cells. Small whole numbers, the usual case, are marked rather than sorted.
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

/// "1,2,3,4,5,6-10,11-20,21-50,51-100,...", up to the largest.
std::string bands_of_counts(std::int64_t smallest, std::int64_t largest) {
  std::string text = smallest == 0 ? "0,1,2,3,4,5" : "1,2,3,4,5";
  constexpr std::int64_t kSteps[] = {10, 20, 50};
  std::int64_t from = 6;
  for (std::int64_t power = 1; from <= largest; power *= 10) {
    for (const std::int64_t step : kSteps) {
      if (from > largest) break;
      text += fmt::format(",{}-{}", from, step * power);
      from = step * power + 1;
    }
  }
  return text;
}

/// Where there are too many different values for a table, or amounts.
std::string bands_by_itself(const CustomerValues& values, const std::vector<std::int64_t>& different) {
  if (values.unit == result::Unit::count) return bands_of_counts(different.front(), different.back());
  std::vector<std::int64_t> units;
  for (std::uint32_t i = 0; i < values.values.size(); ++i)
    if (values.values[i] != result::kEmptyCell) units.push_back(values.units(i));
  return analysis::suggested_bands(units);
}

/// A place for each value or, where there are too many, for each of some bands.
OrError<Distribution> with_places(const CustomerValues& values, const Options& options) {
  Distribution distribution;
  distribution.bands = options.bands;
  if (options.bands.empty()) {
    distribution.values = different_values(values.values);
    const bool are_many = values.unit != result::Unit::count || distribution.values.size() > kMostRows;
    if (are_many && !distribution.values.empty()) {
      distribution.own_bands = bands_by_itself(values, distribution.values);
      distribution.different = distribution.values.size();
      PEAR_ASSIGN(distribution.bands, analysis::parse_bands(distribution.own_bands));
    }
  }
  distribution.is_banded = !distribution.bands.empty();
  if (distribution.is_banded) distribution.values.clear();
  for (const analysis::ValueBand& band : distribution.bands) distribution.labels.push_back(band.label);
  for (const std::int64_t value : distribution.values) distribution.labels.push_back(std::to_string(value));
  return distribution;
}

std::uint32_t place_of(const Distribution& distribution, const CustomerValues& values,
                       std::uint32_t customer) {
  if (distribution.is_banded)
    return analysis::band_of(distribution.bands, values.units(customer))
        .value_or(static_cast<std::uint32_t>(distribution.bands.size()));
  const auto found =
      std::lower_bound(distribution.values.begin(), distribution.values.end(), values.values[customer]);
  return static_cast<std::uint32_t>(found - distribution.values.begin());
}

}  // namespace

std::int64_t CustomerValues::units(std::uint32_t customer) const {
  return unit == result::Unit::count ? values[customer] * Decimal::kScale : values[customer];
}

OrError<expression::GroupedExpression> counted_figure(const Options& options,
                                                      const expression::LineView& lines) {
  auto figure = expression::GroupedExpression::compile(*options.count, lines);
  if (!figure) return analysis::in_option("count", figure.error());
  if (figure->type() != expression::ValueType::number)
    return usage_error(fmt::format("--count: {} is not a number.", in_quotes(options.count->text)));
  return figure;
}

void set_unit(const expression::GroupedExpression& figure, const Options& options, CustomerValues& values) {
  values.name = options.count->name;
  values.unit = is_whole(figure.measure(), values.values)        ? result::Unit::count
                : figure.measure() == expression::Measure::money ? result::Unit::money
                                                                 : result::Unit::number;
  for (std::int64_t& value : values.values)
    if (values.unit == result::Unit::count && value != result::kEmptyCell) value /= Decimal::kScale;
}

OrError<CustomerValues> customer_values(const analysis::QuestionInput& input, const Options& options,
                                        const OrderCounts& tallies, const expression::LineView& lines) {
  CustomerValues result;
  const std::uint32_t customers = input.daybook.customers();
  result.values.assign(customers, result::kEmptyCell);
  if (!options.count) {
    for (std::uint32_t i = 0; i < customers; ++i)
      if (tallies.orders[i] > 0) result.values[i] = tallies.orders[i];
    return result;
  }
  PEAR_ASSIGN(const expression::GroupedExpression figure, counted_figure(options, lines));
  const std::vector<std::uint32_t> groups = customers_of_lines(input, options, tallies);
  std::vector<std::uint32_t> itself(customers + 1);
  for (std::uint32_t i = 0; i <= customers; ++i) itself[i] = i;
  PEAR_ASSIGN(const expression::Values values, figure.by_group({groups, itself, customers + 1}));
  for (std::uint32_t i = 0; i < customers; ++i) {
    if (tallies.orders[i] == 0) continue;
    if (values.states[i] == expression::ValueState::filled) result.values[i] = values.numbers[i];
    result.without_value += values.states[i] == expression::ValueState::filled ? 0U : 1U;
  }
  set_unit(figure, options, result);
  return result;
}

std::uint64_t Distribution::all(std::size_t place) const {
  std::uint64_t sum = 0;
  for (const auto& of_group : customers) sum += of_group[place];
  return sum;
}

OrError<Distribution> distribute(const CustomerValues& values, const Options& options,
                                 const analysis::CustomerGroups& groups) {
  PEAR_ASSIGN(Distribution distribution, with_places(values, options));
  distribution.place_of.assign(values.values.size(), daybook::kNoMember);
  distribution.customers.assign(groups.count, std::vector<std::uint64_t>(distribution.places() + 1));
  for (std::uint32_t customer = 0; customer < values.values.size(); ++customer) {
    if (values.values[customer] == result::kEmptyCell) continue;
    const std::uint32_t place = place_of(distribution, values, customer);
    distribution.place_of[customer] = place;
    distribution.customers[groups.group_of(customer)][place] += values.weight(customer);
  }
  const std::size_t outside = distribution.places();
  distribution.has_outside = distribution.is_banded && distribution.all(outside) > 0;
  if (distribution.has_outside) distribution.labels.emplace_back("outside the bands");
  return distribution;
}

}  // namespace pear::frequency
