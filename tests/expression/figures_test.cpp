// Aggregates respect levels: each member counts once in a group, however many lines it has there. Compared
// with the definition over random shops, groups, arguments and filters.
#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "expression/aggregate/grouped.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/parse.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

using expression::Grain;
using expression::ValueState;

/// An argument of aggregates, and what its values belong to.
struct Argument {
  std::string text;
  bool by_line = false, by_order = false, by_customer = false, by_product = false;
};

const std::vector<Argument>& arguments() {
  static const std::vector<Argument> all = {
      {"quantity", true},
      {"amount * 2 - quantity", true},
      {"coalesce(quantity, 0) + unit_cost", true},
      {"credit_limit", false, false, true},
      {"unit_cost", false, false, false, true},
      {"abs(unit_cost - 20)", false, false, false, true},
      {"CASE channel WHEN 'web' THEN 1 WHEN 'shop' THEN 2 END", false, true},
      {"CASE channel WHEN 'web' THEN unit_cost END", false, true, false, true},
      {"credit_limit - unit_cost", false, false, true, true},
      {"CASE WHEN channel = 'web' THEN credit_limit END", false, true}};
  return all;
}

/// What counts once: a line; or an order, a customer, a product or a pair of these.
using Member = std::array<std::uint32_t, 4>;

class Shop {
 public:
  Shop() : daybook_(random_daybook()), lines_(daybook_), cells_(daybook_.lines()) {
    for (std::uint32_t& cell : cells_) cell = static_cast<std::uint32_t>(pick(0, 3));
    for (std::uint32_t customer = 0; customer < daybook_.customers(); ++customer)
      for (std::uint32_t order = daybook_.orders_of(customer).begin; order < daybook_.orders_of(customer).end;
           ++order)
        for (std::uint32_t line = daybook_.lines_of(order).begin; line < daybook_.lines_of(order).end;
             ++line) {
          orders_.push_back(order);
          customers_.push_back(customer);
        }
  }

  [[nodiscard]] const std::vector<std::uint32_t>& cells() const { return cells_; }
  [[nodiscard]] const expression::LineView& lines() const { return lines_; }

  [[nodiscard]] expression::Values values_of(const std::string& text) const {
    const auto compiled = expression::Expression::compile(text, lines_.rows());
    return compiled->evaluate(lines_.rows(), 0, daybook_.lines());
  }

  [[nodiscard]] Member member_of(const Argument& argument, std::uint32_t line) const {
    if (argument.by_line) return {line, 0, 0, 0};
    return {0, argument.by_order ? orders_[line] : 0, argument.by_customer ? customers_[line] : 0,
            argument.by_product ? daybook_.line_products()[line] : 0};
  }

  /// The values of a group's members that have a line there that meets the filter.
  [[nodiscard]] std::vector<std::int64_t> members_values(const Argument& argument, const std::string& filter,
                                                         std::uint32_t group) const {
    const expression::Values values = values_of(argument.text), meets = values_of(filter);
    std::map<Member, std::optional<std::int64_t>> members;
    for (std::uint32_t line = 0; line < daybook_.lines(); ++line) {
      if (cells_[line] != group || !meets.is_true(line)) continue;
      members[member_of(argument, line)] =
          values.states[line] == ValueState::filled ? std::optional(values.numbers[line]) : std::nullopt;
    }
    std::vector<std::int64_t> all;
    for (const auto& [member, value] : members)
      if (value) all.push_back(*value);
    std::sort(all.begin(), all.end());
    return all;
  }

 private:
  daybook::Daybook daybook_;
  expression::LineView lines_;
  std::vector<std::uint32_t> cells_, orders_, customers_;
};

std::int64_t rounded_half_away(Int128 value, Int128 by) {
  const Int128 twice = 2 * (value < 0 ? -value : value) + by;
  const auto rounded = static_cast<std::int64_t>(twice / (2 * by));
  return value < 0 ? -rounded : rounded;
}

/// The figure of sorted values; none if it is empty.
std::optional<std::int64_t> figure_of(const std::string& function, const std::vector<std::int64_t>& values) {
  const auto count = static_cast<std::int64_t>(values.size());
  Int128 sum = 0;
  for (const std::int64_t value : values) sum += value;
  if (function == "count") return count * Decimal::kScale;
  if (function == "count distinct")
    return static_cast<std::int64_t>(std::set<std::int64_t>(values.begin(), values.end()).size()) *
           Decimal::kScale;
  if (function == "sum") return static_cast<std::int64_t>(sum);
  if (values.empty()) return std::nullopt;
  if (function == "avg") return rounded_half_away(sum, count);
  if (function == "min") return values.front();
  if (function == "max") return values.back();
  const std::size_t half = values.size() / 2;
  return values.size() % 2 == 1 ? values[half]
                                : rounded_half_away(Int128{values[half - 1]} + values[half], 2);
}

RC_GTEST_PROP(Figures, CountEachMemberOnceInAGroup, ()) {
  const Shop shop;
  const Argument& argument =
      arguments()[static_cast<std::size_t>(pick(0, static_cast<int>(arguments().size()) - 1))];
  const std::string filter =
      *rc::gen::element<std::string>("1 = 1", "quantity > 0", "category = 'yarn'", "region IS NOT NULL",
                                     "note = 'gift'", "credit_limit > unit_cost");
  const std::string function =
      *rc::gen::element<std::string>("count", "count distinct", "sum", "avg", "min", "max", "median");
  const std::string text =
      fmt::format("{}{}){}", function == "count distinct" ? "count(distinct " : function + "(", argument.text,
                  filter == "1 = 1" ? "" : " FILTER (WHERE " + filter + ")");
  RC_LOG() << text;
  const auto figure = expression::GroupedExpression::compile(*expression::parse_tree(text), shop.lines());
  RC_ASSERT(figure.has_value());
  const std::vector<std::uint32_t> itself = {0, 1, 2, 3};
  const auto values = figure->by_group({shop.cells(), itself, 4});
  RC_ASSERT(values.has_value());
  for (std::uint32_t group = 0; group < 4; ++group) {
    const auto wanted = figure_of(function, shop.members_values(argument, filter, group));
    RC_ASSERT((values->states[group] == ValueState::filled) == wanted.has_value());
    if (wanted) RC_ASSERT(values->numbers[group] == *wanted);
  }
}

/// A figure of the whole is the sum of those of its parts where the figure says so, and a figure that does
/// not is not always.
RC_GTEST_PROP(Figures, AddUpWhereTheySaySo, ()) {
  const Shop shop;
  const std::pair<std::string, Grain> splits[] = {{"region", expression::grain_of(daybook::Level::customer)},
                                                  {"channel", expression::grain_of(daybook::Level::order)},
                                                  {"category", expression::grain_of(daybook::Level::product)},
                                                  {"note", expression::grain::kLine}};
  const auto& [column, parts] = splits[pick(0, 3)];
  const std::string text = *rc::gen::element<std::string>(
      "sum(quantity)", "sum(amount) - sum(quantity) * 2", "count(*)", "sum(credit_limit)", "sum(unit_cost)",
      "count(distinct region)", "avg(quantity)", "count(channel)", "sum(amount) / 2", "max(amount)",
      "count(distinct customer_id)", "count(distinct product_id)");
  const auto figure = expression::GroupedExpression::compile(*expression::parse_tree(text), shop.lines());
  RC_ASSERT(figure.has_value());
  if (!figure->adds_up(parts)) return;
  const expression::Values texts = shop.values_of("coalesce(" + column + ", '')");
  std::map<std::string_view, std::uint32_t> codes;
  std::vector<std::uint32_t> cells;
  for (const std::string_view each : texts.texts)
    cells.push_back(codes.emplace(each, static_cast<std::uint32_t>(codes.size())).first->second);
  std::vector<std::uint32_t> itself, together(codes.size(), 0);
  for (std::uint32_t i = 0; i < codes.size(); ++i) itself.push_back(i);
  const auto of_parts = figure->by_group({cells, itself, static_cast<std::uint32_t>(codes.size())});
  const auto of_all = figure->by_group({cells, together, 1});
  std::int64_t sum = 0;
  for (const std::int64_t number : of_parts->numbers) sum += number;
  RC_ASSERT(sum == of_all->numbers[0]);
}

TEST(Figures, SayWhatAddsUp) {
  const daybook::Daybook daybook =
      build({{"A1", "2024-01-01", "C1", "P1", 1, 150}, {"A2", "2024-01-02", "C2", "P1", 1, 150}}).daybook;
  const expression::LineView lines(daybook);
  const Grain by_customer = expression::grain_of(daybook::Level::customer),
              by_order = expression::grain_of(daybook::Level::order),
              by_product = expression::grain_of(daybook::Level::product);
  struct Case {
    const char* text;
    bool over_customers, over_orders, over_products;
  };
  for (const Case& each :
       {Case{"sum(quantity)", true, true, true},
        Case{"sum(quantity) + count(*) - sum(amount)", true, true, true},
        Case{"avg(quantity)", false, false, false}, Case{"max(quantity)", false, false, false},
        Case{"count(distinct customer_id)", true, false, false},
        Case{"count(distinct order_id)", true, true, false},
        Case{"count(distinct product_id)", false, false, true},
        Case{"count(distinct quantity)", false, false, false},
        Case{"sum(quantity) / count(*)", false, false, false},
        Case{"abs(sum(quantity))", false, false, false}}) {
    const auto figure = expression::GroupedExpression::compile(*expression::parse_tree(each.text), lines);
    ASSERT_TRUE(figure) << each.text;
    EXPECT_EQ(figure->adds_up(by_customer), each.over_customers) << each.text;
    EXPECT_EQ(figure->adds_up(by_order), each.over_orders) << each.text;
    EXPECT_EQ(figure->adds_up(by_product), each.over_products) << each.text;
  }
}

TEST(Figures, ReportWhatAnAggregateNeeds) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 1, 100}}).daybook;
  const expression::LineView lines(daybook);
  const auto fault = [&](const std::string& text) {
    const auto figure = expression::GroupedExpression::compile(*expression::parse_tree(text), lines);
    return figure ? "" : figure.error().message;
  };
  EXPECT_EQ(fault("sum(product_id)"), "SUM needs a number, but \"product_id\" is text (column 5)");
  EXPECT_EQ(fault("1 + avg(order_date)"), "AVG needs a number, but \"order_date\" is a date (column 9)");
  EXPECT_EQ(fault("median(customer_id)"), "MEDIAN needs a number, but \"customer_id\" is text (column 8)");
  EXPECT_EQ(fault("stddev(is_return)"), "STDDEV needs a number, but \"is_return\" is a condition (column 8)");
  EXPECT_EQ(fault("min(is_return)"),
            "MIN needs a number, a date, a time or a text, but \"is_return\" is a condition (column 5)");
  EXPECT_EQ(fault("count(null)"), "COUNT needs a value, but this is NULL (column 7)");
  EXPECT_EQ(fault("max(product_id)"), "");
  EXPECT_EQ(fault("sum(quantity) + 'a'"), "arithmetic needs a number, but the text 'a' is text (column 17)");
}

/// A figure that divides by zero is empty and counted, and does not spoil those of other groups.
TEST(Figures, ThatDivideByZeroAreEmpty) {
  const daybook::Daybook daybook =
      build({{"A1", "2024-01-01", "C1", "P1", 1, 0}, {"A2", "2024-01-02", "C2", "P1", 4, 150}}).daybook;
  const expression::LineView lines(daybook);
  const auto figure =
      expression::GroupedExpression::compile(*expression::parse_tree("sum(quantity) / sum(amount)"), lines);
  const std::vector<std::uint32_t> cells = {0, 1}, itself = {0, 1};
  expression::FaultCount faults{1, 0};
  const auto values = figure->by_group({cells, itself, 2}, &faults);
  EXPECT_EQ(values->states, (std::vector<ValueState>{ValueState::empty, ValueState::filled}));
  EXPECT_EQ(values->numbers[1], 6'667);
  EXPECT_EQ(faults.count, 1U);
  expression::FaultCount in_none{0, 0};
  (void)figure->by_group({cells, itself, 2}, &in_none);
  EXPECT_EQ(in_none.count, 0U) << "only the first groups are watched";
}

}  // namespace
}  // namespace pear::test
