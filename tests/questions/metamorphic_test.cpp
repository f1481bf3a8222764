// What must not change a result, or change it in a known way: the order of the rows, the names of ids, the
// unit of money, and a shop next to a copy of itself. For every question, over random shops.
#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

struct Asked {
  std::string question;
  analysis::OptionValues options;
};

const std::vector<Asked>& asked() {
  static const std::vector<Asked> all = {
      {"first", {}},
      {"first", {{"per", "product_id"}}},
      {"frequency", {}},
      {"frequency", {{"list", "true"}}},
      {"frequency", {{"within", "90"}}},
      {"retention", {{"period", "month"}}},
      {"distinct", {}},
      {"distinct", {{"count", "customer_id"}, {"per", "product_id"}, {"list", "true"}}},
      {"prices", {}},
      {"concentration", {}},
      {"concentration", {{"per", "product_id"}}},
      {"crosstab", {{"down", "product_id"}, {"across", "year"}, {"count", "sum(amount), orders"}}},
      {"baskets", {}},
      {"together", {{"support", "1 baskets"}}},
      {"together", {{"support", "1 baskets"}, {"within", "30 days"}}},
      {"sequence", {{"support", "1"}}},
      {"offers", {}}};
  return all;
}

const Asked& any_question() {
  return asked()[static_cast<std::size_t>(pick(0, static_cast<int>(asked().size()) - 1))];
}

/// Everything that a reader of the result sees.
std::string whole(const OrError<result::Result>& asked) {
  if (!asked) return "fault: " + asked.error().message;
  std::string text;
  for (const std::string& sentence : asked->headline) text += sentence + "\n";
  const auto add = [&](const std::vector<result::TableColumn>& columns, std::size_t rows) {
    for (std::size_t row = 0; row < rows; ++row) {
      for (const result::TableColumn& column : columns)
        text += column.name + "=" + result::cell_text(column, row) + "; ";
      text += "\n";
    }
  };
  for (const result::Table& each : asked->tables) {
    text += fmt::format("[{}] {} {}\n", each.part, each.title, each.description);
    add(each.columns, each.rows());
  }
  for (const result::Figure& figure : asked->figures) {
    text += figure.title + " " + figure.subtitle + "\n";
    add(figure.marks.columns, figure.marks.rows());
  }
  for (const result::Check& check : asked->checks)
    text += fmt::format("{}: {}\n", check.statement, check.holds);
  for (const std::string& note : asked->notes) text += note + "\n";
  return text;
}

OrError<result::Result> answer(const Asked& each, const Sales& sales) {
  return try_to_ask(each.question, each.options, build(sales).daybook, "EUR");
}

std::string without(std::string text, const std::string& part) {
  for (std::size_t at = 0; (at = text.find(part, at)) != std::string::npos;) text.erase(at, part.size());
  return text;
}

/// Shares and probabilities of anything are between 0 and 1, counts are never below 0, and every check holds.
RC_GTEST_PROP(EveryQuestion, HasPossibleFigures, ()) {
  const Asked& each = any_question();
  RC_LOG() << each.question;
  const auto asked = answer(each, random_sales());
  if (!asked) return;
  for (const result::Check& check : asked->checks) RC_ASSERT(check.holds);
  for (const result::Table& given : asked->tables)
    for (const result::TableColumn& column : given.columns) {
      const bool is_part = column.unit == result::Unit::probability || column.name.ends_with("share") ||
                           column.name.starts_with("repeat_rate") || column.name == "confidence";
      for (std::size_t row = 0; row < given.rows(); ++row) {
        if (column.is_empty(row)) continue;
        RC_LOG() << given.part << " " << column.name << " " << result::cell_text(column, row);
        if (is_part) RC_ASSERT(column.fraction(row) >= 0 && column.fraction(row) <= 1 + 1e-12);
        if (column.unit == result::Unit::count) RC_ASSERT(column.integer(row) >= 0);
      }
    }
}

RC_GTEST_PROP(EveryQuestion, DoesNotDependOnTheOrderOfRows, ()) {
  const Sales sales = random_sales();
  Sales shuffled = sales;
  for (std::size_t i = shuffled.size(); i > 1; --i)
    std::swap(shuffled[i - 1], shuffled[static_cast<std::size_t>(pick(0, static_cast<int>(i) - 1))]);
  const Asked& each = any_question();
  RC_LOG() << each.question;
  RC_ASSERT(whole(answer(each, shuffled)) == whole(answer(each, sales)));
}

RC_GTEST_PROP(EveryQuestion, DoesNotDependOnTheNamesOfIds, ()) {
  const Sales sales = random_sales();
  Sales renamed = sales;
  for (Sale& sale : renamed) {
    sale.customer_id = "Zq" + sale.customer_id;
    sale.product_id = "Zq" + sale.product_id;
    sale.order_id = "Zq" + sale.order_id;
  }
  const Asked& each = any_question();
  RC_LOG() << each.question;
  RC_ASSERT(without(whole(answer(each, renamed)), "Zq") == whole(answer(each, sales)));
}

/// Amounts a hundred times as large are a hundred times as large in the result, and nothing else changes.
RC_GTEST_PROP(EveryQuestion, FollowsTheUnitOfMoney, ()) {
  const Sales sales = random_sales();
  Sales scaled = sales;
  for (Sale& sale : scaled) sale.unit_price *= 100;
  const Asked& each = any_question();
  RC_LOG() << each.question;
  const auto before = answer(each, sales), after = answer(each, scaled);
  RC_ASSERT(before.has_value() == after.has_value());
  if (!before) return;
  RC_ASSERT(before->tables.size() == after->tables.size());
  for (std::size_t t = 0; t < before->tables.size(); ++t) {
    const result::Table &small = before->tables[t], &large = after->tables[t];
    RC_ASSERT(small.rows() == large.rows());
    for (std::size_t c = 0; c < small.columns.size(); ++c) {
      const result::TableColumn &a = small.columns[c], &b = large.columns[c];
      RC_ASSERT(a.unit == b.unit);
      for (std::size_t row = 0; row < small.rows(); ++row) {
        RC_LOG() << a.name << " " << result::cell_text(a, row) << " " << result::cell_text(b, row);
        RC_ASSERT(a.is_empty(row) == b.is_empty(row));
        if (a.is_empty(row) || a.unit == result::Unit::text) continue;
        if (a.unit == result::Unit::money) {
          RC_ASSERT(std::abs(a.integer(row) * 100 - b.integer(row)) <=
                    20'000 + std::abs(b.integer(row)) / 200);  // rounded
        } else if (result::is_fraction(a.unit)) {
          RC_ASSERT(std::abs(a.fraction(row) - b.fraction(row)) <= 1e-3 * (1 + std::abs(a.fraction(row))));
        } else if (a.unit != result::Unit::number) {
          RC_ASSERT(a.integer(row) == b.integer(row));
        }
      }
    }
  }
}

/// Next to a copy of itself, with other customers, a shop has twice the customers, orders and amounts, and
/// the same shares.
RC_GTEST_PROP(EveryQuestion, CountsAShopAndItsCopyTwice, ()) {
  const Sales sales = random_sales();
  Sales twice = sales;
  for (const Sale& sale : sales) {
    twice.push_back(sale);
    twice.back().customer_id += "x";
    twice.back().order_id += "x";
  }
  struct Doubled {
    Asked asked;
    std::string table;
    std::vector<std::string> same, doubled;
  };
  const Doubled all[] = {
      {{"first", {}}, "months", {"month"}, {"new_customers", "cumulative_customers", "first_amount"}},
      {{"frequency", {}}, "", {"orders", "share"}, {"customers"}},
      {{"distinct", {{"count", "customer_id"}, {"per", "product_id"}}},
       "",
       {"product_id"},
       {"distinct", "orders", "lines"}},
      {{"concentration", {{"per", "product_id"}}},
       "",
       {"product_id", "share", "cumulative_share", "class"},
       {"amount"}},
      {{"crosstab", {{"down", "product_id"}, {"count", "sum(amount) as amount, orders, customers"}}},
       "",
       {"product_id"},
       {"amount", "orders", "customers"}},
      {{"prices", {}}, "products", {"product_id", "average_price"}, {"customers", "quantity", "amount"}}};
  const Doubled& each = all[pick(0, 5)];
  RC_LOG() << each.asked.question;
  const auto one = answer(each.asked, sales), two = answer(each.asked, twice);
  RC_ASSERT(one.has_value() == two.has_value());
  if (!one) return;
  const auto is_there = [&](const result::Table& given) { return given.part == each.table; };
  if (std::none_of(one->tables.begin(), one->tables.end(), is_there)) return;  // nobody ordered anything
  const result::Table &small = table(*one, each.table), &large = table(*two, each.table);
  RC_ASSERT(small.rows() == large.rows());
  for (const std::string& name : each.same) RC_ASSERT(columns_of(small, {name}) == columns_of(large, {name}));
  for (const std::string& name : each.doubled) {
    const result::TableColumn &a = small.column(name), &b = large.column(name);
    for (std::size_t row = 0; row < small.rows(); ++row)
      RC_ASSERT(a.is_empty(row) || 2 * a.integer(row) == b.integer(row));
  }
}

}  // namespace
}  // namespace pear::test
