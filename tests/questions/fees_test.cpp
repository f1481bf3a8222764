// Fees are sales, but never a product.
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "result/cell_text.hpp"
#include "support/asking.hpp"
#include "support/random_shop.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

/// The sales, and the same with fees in some of the orders.
std::pair<Sales, Sales> with_and_without_fees() {
  const Sales without = random_sales();
  Sales with = without;
  for (const Sale& sale : without) {
    if (sale.quantity < 0 || sale.unit_price < 0 || pick(0, 1) == 0) continue;
    Sale fee = sale;
    fee.product_id = pick(0, 2) == 0 ? "FREIGHT" : "P3";
    fee.quantity = 1, fee.unit_price = 495, fee.is_fee = true;
    with.push_back(fee);
  }
  return {without, with};
}

/// What a table says, apart from amounts of whole orders.
Cells counts_of(const result::Table& table) {
  Cells cells(table.rows());
  for (const result::TableColumn& column : table.columns)
    for (std::size_t row = 0; column.unit != result::Unit::money && row < table.rows(); ++row)
      cells[row].push_back(result::cell_text(column, row));
  return cells;
}

RC_GTEST_PROP(Fees, AreNeverAProduct, ()) {
  const auto [without, with] = with_and_without_fees();
  const daybook::Daybook plain = build(without).daybook, charged = build(with).daybook;
  const std::vector<std::pair<std::string, analysis::OptionValues>> questions = {
      {"together", {{"support", "1 basket"}}},
      {"sequence", {{"support", "1 customer"}, {"longest", "3"}}},
      {"baskets", {{"at-least", "1"}}},
      {"prices", {}},
      {"distinct", {}},
      {"distinct", {{"count", "customer_id"}, {"per", "product_id"}}},
      {"first", {{"per", "product"}}}};
  for (const auto& [question, options] : questions) {
    const auto expected = try_to_ask(question, options, plain),
               found = try_to_ask(question, options, charged);
    RC_ASSERT(expected.has_value() == found.has_value());
    if (!expected) {
      RC_ASSERT(expected.error().message == found.error().message);
      continue;
    }
    for (const result::Check& check : found->checks) RC_ASSERT(check.holds);
    RC_ASSERT(expected->tables.size() == found->tables.size());
    for (std::size_t table = 0; table < expected->tables.size(); ++table)
      if (question == "first")
        RC_ASSERT(counts_of(expected->tables[table]) == counts_of(found->tables[table]));
      else
        RC_ASSERT(cells_of(expected->tables[table]) == cells_of(found->tables[table]));
  }
}

RC_GTEST_PROP(Fees, ArePartOfTheAmount, ()) {
  const auto [without, with] = with_and_without_fees();
  if (with.size() == without.size()) return;
  const auto plain = try_to_ask("frequency", {}, build(without).daybook),
             charged = try_to_ask("frequency", {}, build(with).daybook);
  RC_ASSERT(plain.has_value() == charged.has_value());
  if (!plain) return;
  const auto cents = static_cast<std::int64_t>(495 * (with.size() - without.size()));
  RC_ASSERT(!plain->population.fees && charged->population.fees == Decimal::from_units(cents * 100));
  RC_ASSERT(charged->population.amount->units() - plain->population.amount->units() == cents * 100);
  for (const char* question : {"concentration", "first", "baskets"})
    if (const auto answer = try_to_ask(question, {}, build(with).daybook); answer)
      for (const result::Check& check : answer->checks) RC_ASSERT(check.holds);
  for (std::size_t table = 0; table < plain->tables.size(); ++table)
    RC_ASSERT(cells_of(plain->tables[table]) == cells_of(charged->tables[table]));
}

}  // namespace
}  // namespace pear::test
