#include "expression/evaluate/function_call.hpp"

#include <algorithm>
#include <array>
#include <optional>
#include <string_view>
#include <utility>

#include <fmt/format.h>

#include "base/decimal.hpp"
#include "base/text.hpp"
#include "daybook/daybook.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::expression {
namespace {

struct FunctionInfo {
  std::string_view name;
  Op op;
  std::size_t fewest, most;
};
constexpr std::array<FunctionInfo, 25> kFunctions = {{{"lower", Op::lower, 1, 1},
                                                      {"upper", Op::upper, 1, 1},
                                                      {"trim", Op::trim, 1, 1},
                                                      {"char_length", Op::char_length, 1, 1},
                                                      {"character_length", Op::char_length, 1, 1},
                                                      {"abs", Op::absolute, 1, 1},
                                                      {"round", Op::round, 1, 2},
                                                      {"floor", Op::floor, 1, 1},
                                                      {"ceiling", Op::ceiling, 1, 1},
                                                      {"ceil", Op::ceiling, 1, 1},
                                                      {"coalesce", Op::coalesce, 1, 99},
                                                      {"nullif", Op::null_if, 2, 2},
                                                      {"count", Op::count_values, 1, 1},
                                                      {"sum", Op::sum, 1, 1},
                                                      {"avg", Op::average, 1, 1},
                                                      {"min", Op::minimum, 1, 1},
                                                      {"max", Op::maximum, 1, 1},
                                                      {"median", Op::median, 1, 1},
                                                      {"percentile_cont", Op::percentile, 1, 1},
                                                      {"stddev", Op::deviation, 1, 1},
                                                      {"stddev_samp", Op::deviation, 1, 1},
                                                      {"stddev_pop", Op::population_deviation, 1, 1},
                                                      {"row_number", Op::row_number, 0, 0},
                                                      {"rank", Op::rank, 0, 0},
                                                      {"ntile", Op::ntile, 1, 1}}};

tl::unexpected<Error> fault(std::size_t at, const std::string& what) {
  return usage_error(fmt::format("{} (column {})", what, at));
}

/// The level whose members an id identifies.
std::optional<daybook::Level> level_of_id(const Node& node) {
  if (node.op != Op::column) return std::nullopt;
  if (node.text == daybook::role::kCustomerId) return daybook::Level::customer;
  if (node.text == daybook::role::kOrderId) return daybook::Level::order;
  if (node.text == daybook::role::kProductId) return daybook::Level::product;
  return std::nullopt;
}

OrError<Op> kind_of_count(const FunctionCall& call) {
  if (call.star) return Op::count_rows;
  if (level_of_id(call.args.front())) return Op::count_members;
  return call.distinct ? Op::count_distinct : Op::count_values;
}

/// Where ORDER BY is needed, and where it is not possible.
OrError<void> check_order(const FunctionCall& call, Op op) {
  if (is_place(op) && (!call.is_over || call.order.empty()))
    return fault(call.at, fmt::format("{} needs OVER (PARTITION BY customer_id ORDER BY ...), or OVER (ORDER "
                                      "BY ...)",
                                      call.name));
  if (op == Op::percentile && (!call.has_within_group || call.order.size() != 1))
    return fault(call.at, "PERCENTILE_CONT is written PERCENTILE_CONT(0.9) WITHIN GROUP (ORDER BY amount)");
  if (!is_place(op) && op != Op::percentile && !call.order.empty())
    return fault(call.at, fmt::format("ORDER BY is possible in ROW_NUMBER, RANK, NTILE and PERCENTILE_CONT, "
                                      "not in {}",
                                      call.name));
  if (is_place(op) && !call.filter.empty())
    return fault(call.at, fmt::format("FILTER is not possible in {}", call.name));
  return {};
}

/// The number of PERCENTILE_CONT and NTILE, which must be written as a number.
OrError<void> take_number(Node& node) {
  const Node given = std::move(node.args.front());
  node.args.clear();
  node.number = given.number;
  if (node.op == Op::ntile) {
    node.number /= Decimal::kScale;
    constexpr std::int64_t kMostParts = 1'000'000;
    if (given.op != Op::number_literal || given.number % Decimal::kScale != 0 || node.number < 1 ||
        node.number > kMostParts)
      return fault(given.at, "NTILE needs a whole number of 1 or more, such as NTILE(10)");
    return {};
  }
  if (given.op != Op::number_literal || given.number < 0 || given.number > Decimal::kScale)
    return fault(given.at, "PERCENTILE_CONT needs a number from 0 to 1, such as 0.9");
  Node value = std::move(node.order.front());
  if (value.is_descending) node.number = Decimal::kScale - node.number;
  node.order.clear();
  node.args.push_back(std::move(value));
  return {};
}

OrError<void> check_aggregate(const FunctionCall& call, Op op) {
  PEAR_TRY(check_order(call, op));
  if (call.distinct && op != Op::count_values)
    return fault(call.at, fmt::format("DISTINCT is possible in COUNT only, not in {}: aggregates count each "
                                      "order, customer or product once in any case",
                                      call.name));
  for (const auto* parts : {&call.args, &call.filter, &call.partition, &call.order}) {
    if (std::any_of(parts->begin(), parts->end(), has_aggregate))
      return fault(call.at,
                   fmt::format("{} cannot contain another aggregate, unless that has OVER (...)", call.name));
  }
  return {};
}

OrError<void> check_call(const FunctionCall& call, const FunctionInfo& info) {
  const std::size_t given = call.args.size();
  const bool counts_rows = call.star && info.op == Op::count_values;
  if (!counts_rows && (call.star || given < info.fewest || given > info.most))
    return fault(call.at, fmt::format("{} needs {}{}, not {}", call.name, counted(info.fewest, "value"),
                                      info.most > info.fewest ? " or more" : "",
                                      call.star ? "*" : std::to_string(given)));
  if (is_aggregate(info.op) || info.op == Op::count_values) return check_aggregate(call, info.op);
  if (call.distinct || call.is_over || call.has_within_group || !call.filter.empty())
    return fault(call.at, fmt::format("{} is not an aggregate, so {} is not possible", call.name,
                                      call.distinct           ? "DISTINCT"
                                      : call.is_over          ? "OVER"
                                      : call.has_within_group ? "WITHIN GROUP"
                                                              : "FILTER"));
  return {};
}

}  // namespace

OrError<Node> called_function(FunctionCall call) {
  std::vector<std::string> names = {"extract", "substring", "cast"};
  for (const FunctionInfo& info : kFunctions) {
    names.emplace_back(info.name);
    if (info.name != call.name) continue;
    PEAR_TRY(check_call(call, info));
    Node node;
    node.op = info.op;
    node.at = call.at;
    if (info.op == Op::count_values) {
      PEAR_ASSIGN(node.op, kind_of_count(call));
    }
    if (node.op == Op::count_members) {
      node.number = static_cast<std::int64_t>(*level_of_id(call.args.front()));
      call.args.clear();
    }
    node.args = std::move(call.args);
    node.filter = std::move(call.filter);
    node.partition = std::move(call.partition);
    node.order = std::move(call.order);
    node.is_over = call.is_over;
    if (node.op == Op::ntile || node.op == Op::percentile) PEAR_TRY(take_number(node));
    return node;
  }
  return fault(call.at, fmt::format("there is no function {}.{}", in_quotes(call.name),
                                    did_you_mean(call.name, names)));
}

}  // namespace pear::expression
