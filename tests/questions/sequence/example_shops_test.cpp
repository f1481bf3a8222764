// Sequences of the papers' examples, of shuffled shops, and of shops with known sequences.
#include <algorithm>
#include <random>
#include <string>
#include <utility>
#include <vector>

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "statistics/significance.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

/// Orders of customers as the papers write them: "1 ab" is a and b on the first day.
using PaperOrders = std::vector<std::pair<int, std::string>>;

Sales sales_of_papers(const std::vector<PaperOrders>& customers) {
  Sales sales;
  for (std::size_t customer = 0; customer < customers.size(); ++customer)
    for (const auto& [day, items] : customers[customer])
      for (const char item : items)
        sales.push_back({fmt::format("A{}-{}", customer, day), to_text(Date{19'700 + day}),
                         fmt::format("C{}", customer), std::string(1, item), 1, 100});
  return sales;
}

/// Sequences with their customers, in order of their texts.
Cells found_in(const std::vector<PaperOrders>& customers, analysis::OptionValues options) {
  options.emplace_back("support", "2 customers");
  options.emplace_back("repeats", "all");
  Cells rows =
      columns_of(table(ask("sequence", options, sales_of_papers(customers)), ""), {"steps", "customers"});
  std::sort(rows.begin(), rows.end());
  return rows;
}

/// Agrawal and Srikant, Mining sequential patterns, ICDE 1995, figures 1 to 3: items 10 to 90 as 1 to 9.
TEST(Sequence, ExampleOfAgrawalAndSrikant) {
  EXPECT_EQ(found_in({{{1, "3"}, {2, "9"}},
                      {{1, "12"}, {2, "3"}, {3, "467"}},
                      {{1, "357"}},
                      {{1, "3"}, {2, "47"}, {3, "9"}},
                      {{1, "9"}}},
                     {{"sets", ""}, {"condense", "maximal"}}),
            (Cells{{"3 > 4 + 7", "2"}, {"3 > 9", "2"}}));
}

/// Zaki, SPADE: an efficient algorithm for mining frequent sequences, Machine Learning 42, 2001, figure 1.
TEST(Sequence, ExampleOfZaki) {
  EXPECT_EQ(found_in({{{10, "CD"}, {15, "ABC"}, {20, "ABF"}, {25, "ACDF"}},
                      {{15, "ABF"}, {20, "E"}},
                      {{10, "ABF"}},
                      {{10, "DGH"}, {20, "BF"}, {25, "AGH"}}},
                     {{"sets", ""}}),
            (Cells{{"B + F > A", "2"},
                   {"B > A", "2"},
                   {"D > A", "2"},
                   {"D > B", "2"},
                   {"D > B + F", "2"},
                   {"D > B + F > A", "2"},
                   {"D > B > A", "2"},
                   {"D > F", "2"},
                   {"D > F > A", "2"},
                   {"F > A", "2"}}));
}

/// Pei and others, Mining sequential patterns by pattern-growth, IEEE TKDE 16, 2004, tables 1 and 2: those
/// that begin with a.
TEST(Sequence, ExampleOfPeiAndOthers) {
  const std::vector<PaperOrders> customers = {{{1, "a"}, {2, "abc"}, {3, "ac"}, {4, "d"}, {5, "cf"}},
                                              {{1, "ad"}, {2, "c"}, {3, "bc"}, {4, "ae"}},
                                              {{1, "ef"}, {2, "ab"}, {3, "df"}, {4, "c"}, {5, "b"}},
                                              {{1, "e"}, {2, "g"}, {3, "af"}, {4, "c"}, {5, "b"}, {6, "c"}}};
  EXPECT_EQ(found_in(customers, {{"sets", ""}, {"starts-with", "a"}}), (Cells{{"a + b > c", "2"},
                                                                              {"a + b > d", "2"},
                                                                              {"a + b > d > c", "2"},
                                                                              {"a + b > f", "2"},
                                                                              {"a > a", "2"},
                                                                              {"a > b", "4"},
                                                                              {"a > b + c", "2"},
                                                                              {"a > b + c > a", "2"},
                                                                              {"a > b > a", "2"},
                                                                              {"a > b > c", "2"},
                                                                              {"a > c", "4"},
                                                                              {"a > c > a", "2"},
                                                                              {"a > c > b", "3"},
                                                                              {"a > c > c", "3"},
                                                                              {"a > d", "2"},
                                                                              {"a > d > c", "2"},
                                                                              {"a > f", "2"}}));
}

/// Srikant and Agrawal, Mining sequential patterns: generalizations and performance improvements, EDBT 1996,
/// section 2.2: two steps that a maximum gap of 30 days separates.
TEST(Sequence, ExampleOfGaps) {
  const std::vector<PaperOrders> customers = {{{1, "r"}, {2, "f"}, {15, "es"}},
                                              {{1, "fr"}, {20, "m"}, {50, "e"}}};
  EXPECT_EQ(found_in(customers, {}), (Cells{{"f > e", "2"}, {"r > e", "2"}}));
  EXPECT_EQ(found_in(customers, {{"max-gap", "30"}}), (Cells{}));
  EXPECT_EQ(found_in(customers, {{"span", "48"}}), (Cells{}));
}

/// Customers begin with one of four products, which trigger nothing; one that follows another is found. With
/// the days of each customer's orders shuffled no direction is real, and at most 1 in 20 of such shops may
/// have any finding.
TEST(Sequence, EntryProductsAndShuffledShopsHaveNoDirections) {
  std::mt19937 random(11);
  std::vector<PaperOrders> customers(150);
  for (PaperOrders& orders : customers) {
    const int count = 2 + static_cast<int>(random() % 6), start = static_cast<int>(random() % 600);
    for (int i = 0; i < count; ++i) {
      std::string items(1, static_cast<char>('a' + static_cast<int>(random() % 4) * (i == 0 ? 1 : 4)));
      const char other = static_cast<char>('a' + static_cast<int>(random() % 16));
      if (other != items.front()) items.push_back(other);
      orders.emplace_back(start + 20 * i + 1 + static_cast<int>(random() % 20), items);
    }
  }
  const auto has_findings = [&] {
    const result::Result result =
        ask("sequence", {{"support", "2 customers"}, {"longest", "2"}}, sales_of_papers(customers));
    for (const auto& row : columns_of(table(result, "next"), {"q_value"}))
      if (std::stod(row[0]) <= 0.05) return true;
    return false;
  };
  EXPECT_FALSE(has_findings());
  const std::vector<PaperOrders> unplanted = customers;
  for (PaperOrders& orders : customers)
    for (std::size_t i = 0; i + 1 < orders.size(); ++i)
      if (orders[i].second.find('e') != std::string::npos) orders[i + 1].second.push_back('z');
  EXPECT_TRUE(has_findings());
  customers = unplanted;
  int with_findings = 0;
  constexpr int kShuffles = 200;
  for (int shuffle = 0; shuffle < kShuffles; ++shuffle) {
    for (PaperOrders& orders : customers) {
      std::vector<int> days;
      for (const auto& order : orders) days.push_back(order.first);
      std::shuffle(days.begin(), days.end(), random);
      for (std::size_t i = 0; i < orders.size(); ++i) orders[i].first = days[i];
    }
    with_findings += has_findings() ? 1 : 0;
  }
  EXPECT_LE(with_findings, kShuffles / 20);
}

/// Ten customers who buy a, then b after 10 days, then c after 20 more; other customers buy only b or only c,
/// all of them all year round.
std::vector<PaperOrders> chain() {
  std::vector<PaperOrders> customers;
  for (int i = 0; i < 10; ++i) customers.push_back({{40 * i, "a"}, {40 * i + 10, "b"}, {40 * i + 30, "c"}});
  for (int i = 0; i < 10; ++i) customers.push_back({{40 * i, i % 2 == 0 ? "b" : "c"}, {40 * i + 50, "d"}});
  return customers;
}

TEST(Sequence, ReportsChainsAndTheNeighboursOfOneProduct) {
  const result::Result all = ask("sequence", {}, sales_of_papers(chain()));
  EXPECT_EQ(all.headline, (std::vector<std::string>{
                              "After a, 10 of 10 customers (100.0%) buy b, half of them 10 days later. That "
                              "is 460 times the usual rate per day.",
                              "In 3 steps: a, then b (10 days later), then c (20 days later). 10 customers "
                              "completed it, 100.0% of those who had reached the last step but one."}));
  const result::Result one =
      ask("sequence", {{"product", "b"}, {"ends-with", "c"}}, sales_of_papers(chain()));
  EXPECT_EQ(columns_of(table(one, ""), {"steps"}), (Cells{{"a > b > c"}, {"b > c"}}));
  EXPECT_EQ(columns_of(table(one, "next"), {"earlier", "later", "customers_both"}),
            (Cells{{"b", "c", "10"}}));
  EXPECT_EQ(columns_of(table(one, "timing"), {"day", "at_risk", "customers", "share"}),
            (Cells{{"20", "15", "10", "0.666667"}}));
}

TEST(Sequence, ReportsMistakes) {
  const daybook::Daybook daybook = build(sales_of_papers(chain())).daybook;
  const auto error = [&](const analysis::OptionValues& options) {
    const auto result = try_to_ask("sequence", options, daybook);
    return result ? std::string("no error") : result.error().message;
  };
  EXPECT_EQ(error({{"support", "2 customers"}, {"at-most", "3"}}),
            "more than 3 sequences reach a support of 2 customers, more than --at-most allows. Use --support "
            "\"16 customers\", or a smaller --longest.");
  EXPECT_EQ(error({{"min-gap", "8"}, {"max-gap", "7"}}), "--max-gap 7 is less than --min-gap 8.");
  EXPECT_EQ(error({{"min-gap", "8"}, {"span", "7"}}), "--span 7 is less than --min-gap 8.");
  EXPECT_EQ(error({{"sets", ""}, {"repeats", "only"}}),
            "--sets does not fit --repeats only, whose steps are one product each.");
  for (const auto& [option, value] : analysis::OptionValues{{"sets", ""},
                                                            {"min-gap", "8"},
                                                            {"max-gap", "8"},
                                                            {"span", "8"},
                                                            {"support", "2 customers"},
                                                            {"condense", "maximal"},
                                                            {"product", "a"},
                                                            {"starts-with", "a"},
                                                            {"ends-with", "a"},
                                                            {"repeats", "only"}})
    EXPECT_EQ(error({{"journey", "product_id"}, {option, value}}),
              "--journey can be combined only with --longest and with --repeats first or all.")
        << option;
  EXPECT_EQ(error({{"support", "2 baskets"}}),
            "--support takes a share such as 0.05 or 5%, not \"2 baskets\". Or give a number such as \"25 "
            "customers\".");
  EXPECT_EQ(
      error({{"min-gap", "90"}}),
      "none of the 20 customers bought another product at least 90 days later, so there is no sequence.");
  EXPECT_EQ(error({{"starts-with", "x"}}),
            "there is no product with \"x\" in its id among the selected 4. Did you mean \"a\"?");
}

}  // namespace
}  // namespace pear::test
