// Sets and pairs of the papers' examples, of shuffled shops, and of shops made by hand.
#include <functional>
#include <random>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "mining/frequent_itemsets.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

Sales sales_of_baskets(const std::vector<std::string>& baskets) {
  Sales sales;
  for (std::size_t basket = 0; basket < baskets.size(); ++basket)
    for (const char item : baskets[basket])
      sales.push_back({fmt::format("A{}", basket), "2024-01-01", fmt::format("C{}", basket),
                       std::string(1, item), 1, 100});
  return sales;
}

/// Agrawal and Srikant, Fast algorithms for mining association rules, VLDB 1994, figure 3.
TEST(Together, ExampleOfAgrawalAndSrikant) {
  const result::Result result = ask("together", {{"support", "2 baskets"}, {"min-gain", "0"}},
                                    sales_of_baskets({"134", "235", "1235", "25"}));
  EXPECT_EQ(columns_of(table(result, ""), {"product_a", "product_b", "both"}),
            (Cells{{"2", "5", "3"}, {"1", "3", "2"}, {"2", "3", "2"}, {"3", "5", "2"}}));
  EXPECT_EQ(columns_of(table(result, "sets"), {"products", "baskets"}), (Cells{{"2 + 3 + 5", "2"}}));
}

/// Han, Pei and Yin, Mining frequent patterns without candidate generation, SIGMOD 2000, table 1.
TEST(Together, ExampleOfHanPeiAndYin) {
  const std::vector<std::string> baskets = {"facdgimp", "abcflmo", "bfhjo", "bcksp", "afcelpmn"};
  const result::Result all = ask("together", {{"support", "3 baskets"}}, sales_of_baskets(baskets));
  EXPECT_EQ(columns_of(table(all, ""), {"product_a", "product_b"}),
            (Cells{{"a", "c"}, {"a", "f"}, {"a", "m"}, {"c", "f"}, {"c", "m"}, {"c", "p"}, {"f", "m"}}));
  EXPECT_EQ(columns_of(table(all, "sets"), {"products", "baskets"}), (Cells{{"a + c + f", "3"},
                                                                            {"a + c + m", "3"},
                                                                            {"a + f + m", "3"},
                                                                            {"c + f + m", "3"},
                                                                            {"a + c + f + m", "3"}}));
  const result::Result maximal =
      ask("together", {{"support", "3 baskets"}, {"condense", "maximal"}, {"size", "2"}},
          sales_of_baskets(baskets));
  EXPECT_EQ(columns_of(table(maximal, "sets"), {"products"}), (Cells{{"c + p"}, {"a + c + f + m"}}));
}

/// Baskets of the same sizes and products as a real shop's, filled at random: in such shops every finding is
/// a false one, so at most 1 in 20 of them may have any.
TEST(Together, ShuffledShopsHaveNoFindings) {
  std::mt19937 random(7);
  std::vector<int> sizes, items;
  for (int basket = 0; basket < 400; ++basket) sizes.push_back(1 + static_cast<int>(random() % 5));
  for (const int size : sizes)
    for (int i = 0; i < size; ++i) {
      const double place = static_cast<double>(random() % 10'000) / 10'000;
      items.push_back(static_cast<int>(25 * place * place));
    }
  int with_findings = 0;
  constexpr int kShuffles = 200;
  for (int shuffle = 0; shuffle < kShuffles; ++shuffle) {
    std::shuffle(items.begin(), items.end(), random);
    std::vector<std::size_t> begins = {0};
    for (const int size : sizes) begins.push_back(begins.back() + static_cast<std::size_t>(size));
    for (std::size_t basket = 0; basket < sizes.size();
         ++basket) {  // no basket contains an item twice: swap with another
      for (std::size_t at = begins[basket]; at < begins[basket + 1]; ++at) {
        const auto holds = [&](std::size_t b, int item, std::size_t but) {
          for (std::size_t i = begins[b]; i < begins[b + 1]; ++i)
            if (i != but && items[i] == item) return true;
          return false;
        };
        while (holds(basket, items[at], at)) {
          const std::size_t other = random() % items.size();
          const auto of_other = static_cast<std::size_t>(
              std::upper_bound(begins.begin(), begins.end(), other) - begins.begin() - 1);
          if (of_other == basket || holds(of_other, items[at], other) || holds(basket, items[other], at))
            continue;
          std::swap(items[at], items[other]);
        }
      }
    }
    Sales sales;
    for (std::size_t basket = 0; basket < sizes.size(); ++basket)
      for (std::size_t at = begins[basket]; at < begins[basket + 1]; ++at)
        sales.push_back({fmt::format("A{}", basket), "2024-01-01", fmt::format("C{}", basket),
                         fmt::format("P{}", items[at]), 1, 100});
    const result::Result result =
        ask("together", {{"support", "2 baskets"}, {"largest", "2"}, {"size", "2"}}, sales);
    bool any = false;
    for (const auto& row : columns_of(table(result, ""), {"q_value"})) any = any || std::stod(row[0]) <= 0.05;
    with_findings += any ? 1 : 0;
  }
  EXPECT_LE(with_findings, kShuffles / 20);
}

TEST(Together, AnOrderOfReturnsJoinsNoBaskets) {
  const Sales sales = {{"O1", "2024-01-01", "C1", "P1", 1, 1000},
                       {"O2", "2024-01-06", "C1", "P1", -1, 1000},
                       {"O3", "2024-01-11", "C1", "P2", 1, 1000},
                       {"O4", "2024-01-01", "C2", "P1", 1, 1000},
                       {"O4", "2024-01-01", "C2", "P2", 1, 1000}};
  const result::Result result = ask("together", {{"basket", "7 days"}, {"support", "1 baskets"}}, sales);
  EXPECT_EQ(columns_of(table(result, ""), {"both", "a", "b", "support"}),
            (Cells{{"1", "2", "2", "0.333333"}}));
}

TEST(Together, EverythingAboutOneProduct) {
  const Sales sales = sales_of_baskets({"ab", "ab", "ac", "a", "b", "bc"});
  const result::Result result = ask("together", {{"product", "b"}}, sales);
  EXPECT_EQ(columns_of(table(result, ""), {"product_a", "product_b", "both", "a", "b"}),
            (Cells{{"b", "a", "2", "4", "4"}, {"b", "c", "1", "4", "2"}}));
  EXPECT_EQ(cells_of(table(result, "products")), (Cells{{"b", "4", "0.666667", "1", "0.250000"}}));
  EXPECT_EQ(
      result.headline,
      (std::vector<std::string>{
          "b is in 4 baskets, and is the only product in 1 of these (25.0%).",
          "Nothing is bought with b significantly more often than expected by chance (2 pairs tested)."}));
}

TEST(Together, ReportsMistakes) {
  const daybook::Daybook daybook = build(sales_of_baskets({"abcdef", "abcdef", "abcdef"})).daybook;
  const auto error = [&](const analysis::OptionValues& options) {
    return try_to_ask("together", options, daybook).error().message;
  };
  EXPECT_EQ(error({{"support", "2 baskets"}, {"at-most", "20"}}),
            "more than 20 sets reach a support of 2 baskets, more than --at-most allows. Use --support \"4 "
            "baskets\", or a smaller --largest.");
  EXPECT_EQ(
      error({{"basket", "a week"}}),
      "--basket takes order, day, customer, or a length of time such as 14, \"14 days\" or \"2 weeks\", "
      "not \"a week\".");
  EXPECT_EQ(
      error({{"support", "200%"}}),
      "--support takes a share from 0.0001% to 100%, such as 0.05 or 5%, not \"200%\". Or give a number such "
      "as \"25 baskets\".");
  EXPECT_EQ(error({{"sort", "lifts desc"}}),
            "--sort: the table \"Pairs\" has no column \"lifts\". Did you mean \"lift\"?");
  const auto single = try_to_ask("together", {}, build(sales_of_baskets({"a", "b"})).daybook);
  EXPECT_EQ(single.error().message,
            "none of the 2 baskets contains two distinct products, so nothing is bought together.");
}

TEST(Together, MiningReportsProgress) {
  const mining::Baskets baskets{{0, 1, 2, 0, 1, 0}, {0, 3, 5, 6}, {0, 1, 2}, {0, 0, 0}, {3, 2, 1}, {1, 0, 0}};
  std::vector<std::uint64_t> told;
  const auto sets = mining::mine_sets(baskets, {1, 5, 100}, [&](std::uint64_t done, std::uint64_t all) {
    told.push_back(done);
    EXPECT_EQ(all, 3U);
  });
  EXPECT_EQ(told, (std::vector<std::uint64_t>{1, 2, 3}));
  EXPECT_EQ(sets->size(), 7U);
}

/// A product that was renamed makes product_name a column of lines: ids stay in the tables, names do not.
TEST(Together, IdsStayWhereAProductWasRenamed) {
  daybook::DaybookParts parts = build(sales_of_baskets({"ab", "ab", "a"})).daybook.take_parts();
  daybook::TextValues names;
  for (std::size_t line = 0; line < parts.line_products.size(); ++line) {
    names.codes.push_back(static_cast<std::uint32_t>(line));
    names.dictionary.push_back(fmt::format("name {}", line));
  }
  parts.columns.push_back({"product_name", daybook::Level::line, std::move(names)});
  const daybook::Daybook daybook(std::move(parts));
  const result::Result together = ask("together", {{"support", "1 baskets"}}, daybook);
  EXPECT_EQ(columns_of(table(together, ""), {"product_a", "product_b"}), (Cells{{"a", "b"}}));
  EXPECT_EQ(table(together, "rules").column("also").name, "also");
}

TEST(Together, PairsMayBeSortedByAnyColumn) {
  const result::Result result =
      ask("together", {{"support", "1 baskets"}, {"sort", "lift desc, product_b desc"}},
          sales_of_baskets({"ab", "ab", "ac", "cd", "ad"}));
  EXPECT_EQ(columns_of(table(result, ""), {"product_a", "product_b", "lift"}),
            (Cells{{"c", "d", "3"}, {"a", "b", "1.5"}, {"a", "d", "0.75"}, {"a", "c", "0.75"}}));
}

}  // namespace
}  // namespace pear::test
