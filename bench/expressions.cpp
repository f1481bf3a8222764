// The cost of expressions compared with hand-written loops that do the same: the same checks for empty values
// and for results out of range, the same answer, which is compared first. One thread, a million lines.
#include <cstdlib>
#include <iostream>
#include <optional>
#include <string>

#include <benchmark/benchmark.h>
#include <tbb/global_control.h>

#include "base/decimal.hpp"
#include "expression/expression.hpp"

namespace pear {
namespace {

/// Prices, quantities and amounts as in a shop, one in a hundred empty; four regions.
struct Lines {
  daybook::ColumnValues quantity = daybook::DecimalValues{}, price = daybook::DecimalValues{},
                        amount = daybook::DecimalValues{}, region = daybook::TextValues{};
  expression::RowView view;

  Lines() {
    auto& texts = std::get<daybook::TextValues>(region);
    for (const char* name : {"East", "North", "South", "West"}) texts.dictionary.push_back(name);
    std::uint64_t state = 1;
    const auto random = [&](std::uint64_t most) {
      state = state * 6364136223846793005ULL + 1442695040888963407ULL;
      return static_cast<std::int64_t>((state >> 33U) % most);
    };
    for (view.rows = 0; view.rows < 1'000'000; ++view.rows) {
      units(quantity).push_back(random(100) == 0 ? daybook::kEmptyUnits : random(12) * Decimal::kScale);
      units(price).push_back(random(20'000) * 100);
      units(amount).push_back(random(200'000) * 100);
      texts.codes.push_back(static_cast<std::uint32_t>(random(4)));
    }
    view.columns = {{"quantity", &quantity}, {"price", &price}, {"amount", &amount}, {"region", &region}};
  }
  static std::vector<std::int64_t>& units(daybook::ColumnValues& values) {
    return std::get<daybook::DecimalValues>(values).units;
  }
  [[nodiscard]] static const std::vector<std::int64_t>& units(const daybook::ColumnValues& values) {
    return std::get<daybook::DecimalValues>(values).units;
  }
};

const Lines& lines() {
  static const Lines kLines;
  return kLines;
}

/// The sum of an expression over all lines, without empty values.
std::int64_t by_expression(const expression::Expression& expression) {
  const expression::RowView& view = lines().view;
  std::int64_t sum = 0;
  for (std::size_t begin = 0; begin < view.rows; begin += expression::Expression::kBlock) {
    const expression::Values values = *expression.evaluate_checked(
        view, begin, std::min(view.rows, begin + expression::Expression::kBlock));
    for (std::size_t row = 0; row < values.size(); ++row) {
      if (values.states[row] == expression::ValueState::filled) sum += values.numbers[row];
    }
  }
  return sum;
}

using Value = std::optional<std::int64_t>;

template <class OfLine>
std::int64_t by_hand(const OfLine& of_line) {
  std::int64_t sum = 0;
  for (std::size_t row = 0; row < lines().view.rows; ++row) sum += of_line(row).value_or(0);
  return sum;
}

Value units_at(const daybook::ColumnValues& values, std::size_t row) {
  const std::int64_t units = Lines::units(values)[row];
  return units == daybook::kEmptyUnits ? Value() : Value(units);
}

Value product(Value a, Value b) {
  if (!a || !b) return std::nullopt;
  const auto value = checked_multiply(Decimal::from_units(*a), Decimal::from_units(*b));
  if (!value) std::abort();
  return value->units();
}
Value difference(Value a, Value b) {
  if (!a || !b) return std::nullopt;
  const auto value = checked_subtract(Decimal::from_units(*a), Decimal::from_units(*b));
  if (!value) std::abort();
  return value->units();
}

Value margin(std::size_t row) {
  return difference(units_at(lines().amount, row),
                    product(units_at(lines().quantity, row), units_at(lines().price, row)));
}
Value in_range(std::size_t row) {
  const Value quantity = units_at(lines().quantity, row);
  const Value amount = units_at(lines().amount, row);
  if (!quantity || !amount) return std::nullopt;
  return *quantity > 2 * Decimal::kScale && *amount < 100 * Decimal::kScale ? 1 : 0;
}
Value chosen(std::size_t row) {
  const Value quantity = units_at(lines().quantity, row);
  const Value amount = units_at(lines().amount, row);
  return quantity && *quantity > 5 * Decimal::kScale ? amount : Value(0);
}
Value in_north(std::size_t row) {
  const auto& texts = std::get<daybook::TextValues>(lines().region);
  return texts.dictionary[texts.codes[row]] == "North" ? 1 : 0;
}

struct Contest {
  const char* name;
  const char* expression;
  Value (*of_line)(std::size_t);
};
constexpr Contest kContests[] = {{"arithmetic", "amount - quantity * price", margin},
                                 {"condition", "quantity > 2 and amount < 100", in_range},
                                 {"case", "case when quantity > 5 then amount else 0 end", chosen},
                                 {"text", "region = 'North'", in_north}};

void run_expression(benchmark::State& state, const Contest& contest) {
  const expression::Expression expression =
      *expression::Expression::compile(contest.expression, lines().view);
  for (auto _ : state) benchmark::DoNotOptimize(by_expression(expression));
}
void run_by_hand(benchmark::State& state, const Contest& contest) {
  for (auto _ : state) benchmark::DoNotOptimize(by_hand(contest.of_line));
}

}  // namespace
}  // namespace pear

int main(int argc, char** argv) {
  const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
  for (const pear::Contest& contest : pear::kContests) {
    const auto expression = *pear::expression::Expression::compile(contest.expression, pear::lines().view);
    if (pear::by_expression(expression) != pear::by_hand(contest.of_line)) {
      std::cerr << contest.name << ": the answers differ\n";
      return 1;
    }
    benchmark::RegisterBenchmark((std::string(contest.name) + "/expression").c_str(), pear::run_expression,
                                 contest);
    benchmark::RegisterBenchmark((std::string(contest.name) + "/by hand").c_str(), pear::run_by_hand,
                                 contest);
  }
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
