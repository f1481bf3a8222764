#include "daybook/merge.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <set>
#include <tuple>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// Sales cut in two overlapping parts and merged again are the same sales.
RC_GTEST_PROP(Merge, AddsNewLinesAndSkipsExistingOnes, ()) {
  const Sales sales = random_sales();
  Sales old, added;
  for (const Sale& sale : sales) {
    const int part = pick(0, 2);
    if (part != 1) old.push_back(sale);
    if (part != 0) added.push_back(sale);
  }
  RC_PRE(!old.empty() && !added.empty());
  daybook::MergedLines merged = daybook::merge_daybooks(build(old).daybook, build(added).daybook, {});
  RC_ASSERT(merged.lines_there_already + merged.table.lines() == old.size() + added.size());
  // A line that only `added` has, but that equals one that only `old` has, is one line, so the twin counts.
  const auto count = [](const Sales& of) {
    std::map<std::string, int> lines;
    for (const Sale& sale : of)
      ++lines[sale.customer_id + "|" + sale.order_id + "|" + sale.product_id + "|" +
              std::to_string(sale.quantity) + "|" + std::to_string(sale.unit_price)];
    return lines;
  };
  std::map<std::string, int> expected = count(old);
  for (const auto& [line, times] : count(added)) expected[line] = std::max(expected[line], times);
  const daybook::Daybook book = daybook::build_daybook(std::move(merged.table))->daybook;
  std::map<std::string, int> found;
  for (std::uint32_t customer = 0; customer < book.customers(); ++customer) {
    for (std::uint32_t order = book.orders_of(customer).begin; order < book.orders_of(customer).end;
         ++order) {
      for (std::uint32_t line = book.lines_of(order).begin; line < book.lines_of(order).end; ++line) {
        const auto units = [&](const char* name) {
          return std::get<daybook::DecimalValues>(book.find(name)->values).units[line] /
                 (std::string(name) == "quantity" ? 10'000 : 100);
        };
        ++found[std::string(book.customer_ids()[customer]) + "|" + std::string(book.order_ids()[order]) +
                "|" + std::string(book.product_ids()[book.line_products()[line]]) + "|" +
                std::to_string(units("quantity")) + "|" + std::to_string(units("unit_price"))];
      }
    }
  }
  RC_ASSERT(found == expected);
}

/// With replacing, an order of the added sales is there as they have it, and the others as they were. If no
/// two customers share an order id, the id identifies the order.
RC_GTEST_PROP(Merge, ReplacesOrdersThatBothHave, ()) {
  Sales old = random_sales(), added = random_sales();
  if (pick(0, 1) == 1) {  // ids of their own for each customer, and some orders under another customer
    for (Sales* sales : {&old, &added})
      for (Sale& sale : *sales) sale.order_id += "-" + sale.customer_id;
    const std::string moved = old.front().order_id;
    for (Sale& sale : added)
      if (sale.order_id == moved) sale.customer_id = "C99";
  }
  const auto ids_are_shared = [](const Sales& sales) {
    std::map<std::string, std::string> customer_of;
    return std::any_of(sales.begin(), sales.end(), [&](const Sale& sale) {
      return customer_of.try_emplace(sale.order_id, sale.customer_id).first->second != sale.customer_id;
    });
  };
  const bool by_id = !ids_are_shared(old) && !ids_are_shared(added);
  using Line = std::tuple<std::string, std::string, std::int64_t, std::int64_t>;
  const auto order_of = [&](const Sale& sale) {
    return (by_id ? "" : sale.customer_id + "|") + sale.order_id;
  };
  const auto lines_of = [&](const Sales& sales) {
    std::map<std::string, std::multiset<Line>> orders;
    for (const Sale& sale : sales)
      orders[order_of(sale)].insert({sale.customer_id, sale.product_id, sale.quantity, sale.unit_price});
    return orders;
  };
  const auto before = lines_of(old), after = lines_of(added);
  Sales expected = added;
  for (const Sale& sale : old)
    if (!after.contains(order_of(sale))) expected.push_back(sale);
  std::uint64_t repeated = 0, changed = 0, replaced = 0;
  for (const auto& [order, lines] : after) {
    const auto found = before.find(order);
    if (found == before.end()) continue;
    ++repeated;
    replaced += found->second.size();
    if (found->second != lines) ++changed;
  }
  daybook::MergedLines merged =
      daybook::merge_daybooks(build(old).daybook, build(added).daybook, {}, daybook::RepeatedOrders::replace);
  RC_ASSERT(merged.orders_repeated == repeated);
  RC_ASSERT(merged.orders_changed == changed);
  RC_ASSERT(merged.lines_replaced == replaced);
  const daybook::Daybook book = daybook::build_daybook(std::move(merged.table))->daybook;
  const daybook::Daybook twin = build(expected).daybook;
  RC_ASSERT(book.customer_ids() == twin.customer_ids());
  RC_ASSERT(book.product_ids() == twin.product_ids());
  for (const char* column : {"order_date", "quantity", "amount"})
    RC_ASSERT(column_text(book, column) == column_text(twin, column));
}

TEST(Merge, KeepsNewValuesOfCustomersAndDifferentColumns) {
  const std::string header = "order_id,order_date,customer_id,product_id,quantity,unit_price,";
  const auto old =
      import_text(header + "region,size\nA1,2024-01-01,C1,P1,1,2,North,1\nA2,2024-01-02,C2,P1,1,2,East,2\n");
  const auto added = import_text(
      header +
      "region,size,channel\nA3,2024-02-01,C1,P1,1,2,South,big,web\nA1,2024-01-01,C1,P1,1,2,South,1,web\n");
  daybook::MergedLines merged =
      daybook::merge_daybooks(old.imported->built.daybook, added.imported->built.daybook, {"region"});
  EXPECT_EQ(merged.lines_there_already, 1U);
  const daybook::Daybook book = daybook::build_daybook(std::move(merged.table))->daybook;
  EXPECT_EQ(columns_by_name(book, {"region", "size", "channel"}),
            "region: customer South East\nsize: order 1 big 2\nchannel: customer web \n");
}

/// Lines that come in two files give the same columns, at the same levels, as lines that come in one.
RC_GTEST_PROP(Merge, DeterminesLevelsOverAllLines, ()) {
  const std::string header =
      "order_id,order_date,customer_id,product_id,quantity,unit_price,channel,product_name,unit_cost\n";
  std::array<std::string, 2> parts = {header, header};
  std::string whole = header;
  const int orders = pick(2, 8);
  for (int order = 0; order < orders; ++order) {
    const std::string line =
        fmt::format("A{0},2024-01-0{1},C{2},P{3},1,2,{4},N{5},{6}\n", order, order + 1, pick(1, 3),
                    pick(1, 2), pick(0, 1) == 0 ? "web" : "shop", pick(1, 2), pick(1, 2));
    parts[order == 0 ? 0U : order == 1 ? 1U : static_cast<unsigned>(pick(0, 1))] += line;
    whole += line;
  }
  const auto daybook_of = [](const std::string& text) { return import_text(text).imported->built.daybook; };
  daybook::MergedLines merged = daybook::merge_daybooks(daybook_of(parts[0]), daybook_of(parts[1]), {});
  const daybook::Daybook book = daybook::build_daybook(std::move(merged.table))->daybook;
  const std::vector<std::string> names = {"channel", "product_name", "unit_cost", "quantity"};
  RC_ASSERT(columns_by_name(book, names) == columns_by_name(daybook_of(whole), names));
}

}  // namespace
}  // namespace pear::test
