#include "pushdown/questions/baskets.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <absl/strings/str_split.h>
#include <fmt/format.h>

#include "pushdown/basket_items.hpp"
#include "questions/baskets/question.hpp"

namespace pear::pushdown {
namespace {

OrError<DecimalSum> sum_of(const SqlValue& value) {
  PEAR_ASSIGN(const std::int64_t units, whole64(value));
  DecimalSum sum;
  sum.add(Decimal::from_units(units));
  return sum;
}

/// Of columns baskets, sales, known and margin: see pear_items.
OrError<baskets::BasketSum> sums_of(std::span<const SqlValue> values) {
  PEAR_ASSIGN(const std::int64_t number, whole64(values[0]));
  baskets::BasketSum sum;
  sum.baskets = static_cast<std::uint64_t>(number);
  PEAR_ASSIGN(sum.sales, sum_of(values[1]));
  PEAR_ASSIGN(const DecimalSum known, sum_of(values[2]));
  PEAR_ASSIGN(sum.margin, sum_of(values[3]));
  sum.cost = baskets::minus(known, sum.margin);
  return sum;
}

/// The statements of baskets.
class ValueStatements {
 public:
  ValueStatements(const mining::BasketRule& rule, const SqlKey& item, const SelectedLines& lines)
      : lines_(lines), with_(with_items(rule, item, lines)) {}

  [[nodiscard]] OrError<std::vector<baskets::Composition>> compositions(const Items& items) const {
    const std::string of_baskets = fmt::format(
        "SELECT customer_id, {} AS items, SUM(amount) AS sales, SUM(known) AS known, SUM(margin) AS margin "
        "FROM "
        "pear_items GROUP BY customer_id, basket",
        lines_.scope.dialect.joined("item"));
    PEAR_ASSIGN(const SqlRows rows,
                lines_.session.rows(
                    with_,
                    fmt::format("SELECT items, COUNT(*) AS baskets, SUM(sales) AS sales, SUM(known) AS "
                                "known, SUM(margin) AS margin FROM ({}) AS pear_baskets GROUP BY items",
                                of_baskets),
                    {"items", "baskets", "sales", "known", "margin"}));
    std::map<std::vector<std::uint32_t>, baskets::BasketSum> sums;  // SQLite joins the items in any order
    for (const auto& row : rows) {
      std::vector<std::uint32_t> codes;
      const std::vector<std::string> texts = absl::StrSplit(*row[0], kBetweenValues);
      for (const std::string& text : texts) {
        PEAR_ASSIGN(const std::uint32_t code, items.code_of(text));
        codes.push_back(code);
      }
      std::sort(codes.begin(), codes.end());
      PEAR_ASSIGN(const baskets::BasketSum sum, sums_of(std::span(row).subspan(1)));
      sums[std::move(codes)].add(sum);
    }
    std::vector<baskets::Composition> made;
    for (const auto& [codes, sum] : sums) made.push_back({codes, sum});
    return made;
  }

  /// `value`: the column that is a basket's value, amount or margin.
  [[nodiscard]] OrError<std::vector<baskets::PulledBaskets>> items_with_baskets(
      const Items& items, const std::string& value) const {
    const std::string with_wholes = fmt::format(
        "SELECT customer_id, item, amount, known, margin, {0} AS own, SUM({0}) OVER (PARTITION BY "
        "customer_id, basket) AS whole, "
        "SUM(known) OVER (PARTITION BY customer_id, basket) AS whole_known, COUNT(*) OVER (PARTITION BY "
        "customer_id, "
        "basket) AS size FROM pear_items",
        value);
    PEAR_ASSIGN(
        const SqlRows rows,
        lines_.session.rows(
            with_,
            fmt::format(
                "SELECT item, COUNT(*) AS baskets, SUM(amount) AS sales, SUM(known) AS known, SUM(margin) AS "
                "margin, COUNT(CASE WHEN size = 1 THEN 1 END) AS single, SUM(own) AS own, SUM(whole) AS "
                "whole, "
                "SUM(whole_known) AS whole_known FROM ({}) AS pear_wholes GROUP BY item",
                with_wholes),
            {"item", "baskets", "sales", "known", "margin", "single", "own", "whole", "whole_known"}));
    std::vector<baskets::PulledBaskets> made(items.key.distinct);
    for (const auto& row : rows) {
      PEAR_ASSIGN(const std::uint32_t code, items.code_of(*row[0]));
      baskets::PulledBaskets& item = made[code];
      PEAR_ASSIGN(item.own, sums_of(std::span(row).subspan(1)));
      PEAR_ASSIGN(const std::int64_t single, whole64(row[5]));
      item.single_item = static_cast<std::uint64_t>(single);
      PEAR_ASSIGN(item.own_value, sum_of(row[6]));
      PEAR_ASSIGN(item.whole, sum_of(row[7]));
      PEAR_ASSIGN(item.whole_known_sales, sum_of(row[8]));
    }
    return made;
  }

  [[nodiscard]] OrError<std::uint64_t> lines_without_cost() const {
    PEAR_ASSIGN(
        const SqlRows rows,
        lines_.session.rows(lines_.with,
                            fmt::format("SELECT COUNT(*) AS n FROM pear_lines WHERE margin IS NULL AND NOT "
                                        "is_return{}",
                                        lines_.scope.warehouse.fees ? " AND NOT is_fee" : ""),
                            {"n"}));
    PEAR_ASSIGN(const std::int64_t n, rows.empty() ? std::int64_t{0} : whole64(rows[0][0]));
    return static_cast<std::uint64_t>(n);
  }

 private:
  const SelectedLines& lines_;
  std::string with_;
};

}  // namespace

OrError<result::Result> answer_baskets(const analysis::OptionValues& values, const SelectedLines& lines,
                                       const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const baskets::Options options, analysis::read_options(baskets::option_declarations(), values));
  PEAR_TRY(check_rule(options.within));
  if (lines.scope.dialect.joined("item").empty())
    return usage_error(
        "baskets: systems that are reached by ODBC join the products of a basket in different ways. Import "
        "the lines, "
        "or a sample of customers (--customers 1/50), and ask the daybook.");
  PEAR_ASSIGN(auto of_schema, mining::basket_key(options.items, lines.scope.schema));
  PEAR_ASSIGN(const SqlKey key, item_key(options.items, lines));
  PEAR_ASSIGN(Items items, read_items(key, lines));
  const ValueStatements statements(options.within, key, lines);
  baskets::BasketValues facts;
  facts.has_pulls = false;
  PEAR_ASSIGN(facts.has_costs, knows_margins(lines));
  PEAR_ASSIGN(std::vector<baskets::Composition> compositions, statements.compositions(items));
  set_compositions(std::move(compositions), facts);
  PEAR_ASSIGN(facts.items, statements.items_with_baskets(items, facts.has_costs ? "margin" : "amount"));
  if (facts.has_costs) {
    PEAR_ASSIGN(facts.lines_without_cost, statements.lines_without_cost());
  }
  if (lines.session.explains()) return result::Result{};
  PEAR_ASSIGN(const baskets::Counts counts,
              baskets::count_from(std::move(facts), {std::move(items.key), std::move(of_schema.second)},
                                  input, options));
  result::Result result = baskets::result_of(counts);
  result.notes.emplace_back(
      "The pull of products is not computed: it needs the baskets themselves. Import the lines, or a sample "
      "of "
      "customers "
      "(--customers 1/50), and ask the daybook.");
  return result;
}

}  // namespace pear::pushdown
