// The figure of the most significant steps.
#include <random>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "base/date.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

/// Customers buy P1, then P2, and so on, three weeks or more apart, until they stop.
Sales sales_along_a_chain(int customers, int products, unsigned seed) {
  std::mt19937 random(seed);
  Sales sales;
  for (int customer = 0; customer < customers; ++customer) {
    int day = 19'000 + static_cast<int>(random() % 500);
    for (int product = 1; product <= products && (product == 1 || random() % 4 != 0); ++product) {
      sales.push_back({fmt::format("A{}", sales.size()), to_text(Date{day}), fmt::format("C{}", customer),
                       fmt::format("P{}", product), 1, 500});
      day += 20 + static_cast<int>(random() % 40);
    }
  }
  return sales;
}

/// Where customers go from A to B and on to C, no arrow leads from A to C; and the title's step is one of the
/// arrows.
TEST(SequenceFigure, ShowsChainsWithoutShortcuts) {
  for (const int products : {5, 8}) {
    const result::Result result = ask("sequence", {}, sales_along_a_chain(400, products, 3));
    ASSERT_FALSE(result.figures.empty());
    const result::Figure& figure = result.figures.front();
    const Cells arrows = columns_of(figure.marks, {"earlier", "later"});
    ASSERT_GE(arrows.size(), 2U);
    std::set<std::pair<std::string, std::string>> reached;  // by two arrows or more
    for (std::size_t round = 0; round < arrows.size(); ++round)
      for (const auto& first : arrows)
        for (const auto& second : arrows) {
          if (first[1] == second[0]) reached.insert({first[0], second[1]});
          if (reached.contains({first[0], second[0]})) reached.insert({first[0], second[1]});
        }
    for (const auto& arrow : arrows)
      EXPECT_FALSE(reached.contains({arrow[0], arrow[1]})) << arrow[0] << " to " << arrow[1];
    EXPECT_EQ(figure.title.find("After " + arrows[0][0] + ", "), 0U) << figure.title;
    EXPECT_NE(figure.title.find("buy " + arrows[0][1] + ","), std::string::npos) << figure.title;
  }
}

}  // namespace
}  // namespace pear::test
