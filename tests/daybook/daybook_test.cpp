#include <algorithm>
#include <map>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/natural_order.hpp"
#include "daybook/builder.hpp"
#include "daybook/columns/extra_columns.hpp"
#include "daybook/natural_ranks.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

const daybook::TimeValues* times(const daybook::Daybook& book) {
  const daybook::Column* column = book.find(daybook::role::kOrderTime);
  return column == nullptr ? nullptr : &std::get<daybook::TimeValues>(column->values);
}

Moment moment_of(const daybook::Daybook& book, std::uint32_t order) {
  return {book.date_of_order(order), times(book) == nullptr ? Moment::kNoTime : times(book)->seconds[order]};
}

/// The lines of a daybook as sales again, in its own order.
std::multiset<std::tuple<std::string, std::string, std::string, std::int64_t>> lines_of(
    const daybook::Daybook& book) {
  std::multiset<std::tuple<std::string, std::string, std::string, std::int64_t>> lines;
  for (std::uint32_t c = 0; c < book.customers(); ++c) {
    const daybook::Run orders = book.orders_of(c);
    for (std::uint32_t o = orders.begin; o < orders.end; ++o) {
      for (std::uint32_t l = book.lines_of(o).begin; l < book.lines_of(o).end; ++l)
        lines.emplace(book.customer_ids()[c], book.order_ids()[o],
                      book.product_ids()[book.line_products()[l]], book.amounts()[l]);
    }
  }
  return lines;
}

TEST(Daybook, ACopyOutlivesItsOriginal) {
  daybook::Daybook copy;
  {
    const daybook::Daybook original = build({{"A1", "2024-03-01", "C1", "P1", 2, 500}}).daybook;
    copy = original;
  }
  EXPECT_EQ(to_text(copy.date_of_order(0)), "2024-03-01");
  EXPECT_EQ(copy.amounts()[0], 10 * Decimal::kScale);
  EXPECT_EQ(copy.return_flags()[0], 0);
}

RC_GTEST_PROP(Builder, KeepsEveryLineAndTheInvariants, ()) {
  const Sales sales = random_sales(true);
  const daybook::Daybook book = build(sales).daybook;
  std::multiset<std::tuple<std::string, std::string, std::string, std::int64_t>> expected;
  for (const Sale& sale : sales)
    expected.emplace(sale.customer_id, sale.order_id, sale.product_id, sale.quantity * sale.unit_price * 100);
  RC_ASSERT(lines_of(book) == expected);
  for (std::uint32_t c = 0; c < book.customers(); ++c) {
    if (c > 0) RC_ASSERT(NaturalLess{}(book.customer_ids()[c - 1], book.customer_ids()[c]));
    const daybook::Run orders = book.orders_of(c);
    RC_ASSERT(orders.size() > 0U);
    for (std::uint32_t o = orders.begin; o < orders.end; ++o) {
      RC_ASSERT(book.lines_of(o).size() > 0U);
      for (std::uint32_t l = book.lines_of(o).begin + 1; l < book.lines_of(o).end; ++l)
        RC_ASSERT(book.line_products()[l - 1] <= book.line_products()[l]);
      if (o == orders.begin) continue;
      const Moment before = moment_of(book, o - 1);
      const Moment here = moment_of(book, o);
      RC_ASSERT(before < here ||
                (before == here && NaturalLess{}(book.order_ids()[o - 1], book.order_ids()[o])));
    }
  }
}

RC_GTEST_PROP(Builder, ReportsOrdersWithTwoDatesAndSharedIds, ()) {
  const Sales sales = random_sales();
  std::map<std::pair<std::string, std::string>, std::set<std::string>> dates;
  std::map<std::string, std::set<std::string>> owners;
  for (const Sale& sale : sales) {
    dates[{sale.customer_id, sale.order_id}].insert(sale.date);
    owners[sale.order_id].insert(sale.customer_id);
  }
  const daybook::BuiltDaybook built = build(sales);
  const auto two =
      std::count_if(dates.begin(), dates.end(), [](const auto& each) { return each.second.size() > 1; });
  std::size_t shared = 0;
  for (const auto& [id, customers] : owners) shared += customers.size() - 1;
  RC_ASSERT(built.orders_with_two_dates == static_cast<std::uint64_t>(two));
  RC_ASSERT(built.shared_order_ids == shared);
}

RC_GTEST_PROP(NaturalPositions, SortAsNaturalCompareDoes, ()) {
  const auto texts = *rc::gen::container<std::set<std::string>>(
      rc::gen::container<std::string>(rc::gen::elementOf(std::string("A0123456789-\x7f"))));
  TextArray array;
  for (const std::string& text : texts) array.push_back(text);
  array.push_back("A123456789012345678901");
  array.push_back("A123456789112345678901");
  std::vector<std::uint32_t> expected(array.size());
  for (std::uint32_t i = 0; i < expected.size(); ++i) expected[i] = i;
  std::sort(expected.begin(), expected.end(),
            [&](std::uint32_t a, std::uint32_t b) { return natural_compare(array[a], array[b]) < 0; });
  RC_ASSERT(daybook::natural_positions(array) == expected);
}

daybook::TextValues text_values(const std::vector<std::string>& texts) {
  daybook::TextValues values;
  for (const std::string& text : texts) {
    values.codes.push_back(text.empty() ? daybook::kEmptyCode
                                        : static_cast<std::uint32_t>(values.dictionary.size()));
    if (!text.empty()) values.dictionary.push_back(text);
  }
  return values;
}

TEST(ExtraColumns, DetectsNumbersAndDaysAndKeepsArticleNumbersAsText) {
  const auto type = [](const std::vector<std::string>& texts) {
    return daybook::with_inferred_type(text_values(texts)).index();
  };
  EXPECT_EQ(type({"1", "-2.5", "", "0.25"}), 1U);
  EXPECT_EQ(type({"2024-01-31", ""}), 2U);
  for (const auto& texts : std::vector<std::vector<std::string>>{{"01234", "5"},
                                                                 {"1", "x"},
                                                                 {"", ""},
                                                                 {"+1"},
                                                                 {"2024-01-31", "2024-02-30"},
                                                                 {"1.00001"},
                                                                 {"2024-01-31 10:00"}})
    EXPECT_EQ(type(texts), 0U) << texts.front();
  const auto days =
      std::get<daybook::DateValues>(daybook::with_inferred_type(text_values({"2024-01-31", ""})));
  EXPECT_EQ(days.days, (std::vector<std::int32_t>{date_of(2024, 1, 31).days, daybook::kEmptyDays}));
}

/// A column that copies a key of the line is assigned to that key's level, in any shop.
RC_GTEST_PROP(ExtraColumns, BelongToTheLevelWhereTheyAreConstant, ()) {
  const daybook::Daybook book = build(random_sales()).daybook;
  const daybook::DaybookParts& parts = book.parts();
  std::vector<std::uint32_t> customer, order, line;
  for (std::uint32_t c = 0; c < book.customers(); ++c) {
    for (std::uint32_t o = book.orders_of(c).begin; o < book.orders_of(c).end; ++o) {
      for (std::uint32_t l = book.lines_of(o).begin; l < book.lines_of(o).end; ++l) {
        customer.push_back(c);
        order.push_back(o);
        line.push_back(l);
      }
    }
  }
  const auto settled = [&](std::vector<std::uint32_t> codes) {
    daybook::BuiltDaybook built;
    return daybook::at_its_level({{"extra", daybook::Level::line, daybook::TextValues{std::move(codes), {}}},
                                  {daybook::Level::customer, daybook::Level::product, daybook::Level::order}},
                                 parts, built);
  };
  RC_ASSERT(settled(customer).level == daybook::Level::customer);
  const daybook::Column of_product = settled(parts.line_products);
  RC_ASSERT(of_product.level == daybook::Level::product || book.customers() == book.lines() ||
            of_product.level == daybook::Level::customer);
  if (of_product.level == daybook::Level::product) {
    for (std::uint32_t p = 0; p < book.products(); ++p)
      RC_ASSERT(std::get<daybook::TextValues>(of_product.values).codes[p] == p);
  }
  const daybook::Column of_order = settled(order);
  if (of_order.level == daybook::Level::order) RC_ASSERT(of_order.size() == book.orders());
  const daybook::Column of_line = settled(line);
  RC_ASSERT(of_line.size() == book.members(of_line.level));
  if (book.orders() < book.lines() && book.products() < book.lines())
    RC_ASSERT(of_line.level == daybook::Level::line);
}

TEST(Daybook, AskingForAColumnThatWasNotLoadedIsADefect) {
  daybook::DaybookParts parts;
  parts.order_offsets = {0, 1};
  parts.line_offsets = {0, 1};
  const daybook::Daybook book(parts);
  EXPECT_THROW((void)book.amounts(), std::logic_error);
  EXPECT_THROW((void)book.customer_ids(), std::logic_error);
  parts.columns.push_back({"amount", daybook::Level::line, daybook::DecimalValues{{1, 2}}});
  EXPECT_THROW(daybook::Daybook{parts}, std::logic_error);
}

}  // namespace
}  // namespace pear::test
