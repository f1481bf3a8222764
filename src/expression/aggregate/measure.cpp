#include "expression/aggregate/measure.hpp"

#include <algorithm>
#include <array>
#include <string_view>

#include "base/text.hpp"

namespace pear::expression {
namespace {

bool is_money(std::string_view column) {
  constexpr std::array<std::string_view, 7> kMoney = {"amount", "unit_price", "unit_cost",      "list_price",
                                                      "cost",   "margin",     "customer_amount"};
  return std::find(kMoney.begin(), kMoney.end(), column) != kMoney.end();
}

Measure of_quotient(Measure a, Measure b) {
  return a == Measure::money && b != Measure::money ? Measure::money : Measure::number;
}

Measure of_product(Measure a, Measure b) {
  const bool one_is_money = (a == Measure::money) != (b == Measure::money);
  return one_is_money ? Measure::money : a == b && a == Measure::count ? Measure::count : Measure::number;
}

/// Of several values, one of which is chosen, or which are added up; bare numbers fit any measure.
Measure of_either(const Node& node, std::size_t from, std::size_t step) {
  Measure measure = Measure::number;
  for (std::size_t i = from; i < node.args.size(); i += step) {
    if (node.args[i].op == Op::number_literal || node.args[i].op == Op::null_literal) continue;
    const Measure of_arg = measure_of(node.args[i]);
    if (measure != Measure::number && of_arg != measure) return Measure::number;
    measure = of_arg;
  }
  return measure;
}

}  // namespace

Measure measure_of_column(std::string_view column) {
  if (is_money(column)) return Measure::money;
  const bool counted = column == "customer_orders" || column == "customer_products";
  return counted ? Measure::count : Measure::number;
}

Measure measure_of(const Node& node) {
  switch (node.op) {
    case Op::column:
      return measure_of_column(snake_case(node.text));
    case Op::count_rows:
    case Op::count_members:
    case Op::count_values:
    case Op::count_distinct:
      return Measure::count;
    case Op::sum:
    case Op::minimum:
    case Op::maximum:
    case Op::negate:
    case Op::absolute:
    case Op::round:
    case Op::null_if:
      return measure_of(node.args.front());
    case Op::average:
    case Op::median:
    case Op::percentile:
    case Op::deviation:
    case Op::population_deviation:
      return measure_of(node.args.front()) == Measure::money ? Measure::money : Measure::number;
    case Op::add:
    case Op::subtract:
    case Op::coalesce:
      return of_either(node, 0, 1);
    case Op::case_when:
      return node.args.size() % 2 == 1 && node.args.size() > 1 ? of_either(node, 1, 2) : Measure::number;
    case Op::multiply:
      return of_product(measure_of(node.args[0]), measure_of(node.args[1]));
    case Op::divide:
      return of_quotient(measure_of(node.args[0]), measure_of(node.args[1]));
    default:
      return Measure::number;
  }
}

}  // namespace pear::expression
