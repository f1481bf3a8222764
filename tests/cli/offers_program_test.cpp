// offers as a user runs it: the built program on the made-up shop.
#include <map>
#include <set>

#include <gtest/gtest.h>

#include "support/csv_rows.hpp"
#include "support/demo_program.hpp"

namespace pear::test {
namespace {

class OffersProgram : public DemoProgram<OffersProgram> {
 protected:
  static ProgramRun offers(std::vector<std::string> words) {
    words.insert(words.begin(), {"offers", "d/thistledown.daybook", "--figure", "none"});
    return run_pear(*folder_, words);
  }
  static bool is_repurchase(const Rows::value_type& row) {
    return row.at("reason").starts_with("bought it ");
  }
  static Rows rows(const std::string& file) { return rows_of(path("pear-out/" + file)); }
};

TEST_F(OffersProgram, OffersNoMoreThanTheStockAndTheBestFirst) {
  EXPECT_EQ(offers({}).exit_code, 0);
  const Rows all = rows("offers.csv");
  ASSERT_GT(all.size(), 1'000U);
  folder_->write("stock.csv", "Product ID,Pieces\nP45,5\nP1,10\nP31,3\nP2,0\nP999,4\n");
  const ProgramRun run = offers({"--stock", "stock.csv", "--rank-by", "probability", "--per-customer", "1"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(run.out.find("1 product of the stock list was never sold: \"P999\"."), std::string::npos);
  std::map<std::string, int> given;
  std::map<std::string, double> least;
  std::set<std::string> customers;
  int compared = 0;
  for (const auto& row : rows("offers.csv")) {
    ++given[row.at("product_id")];
    EXPECT_TRUE(customers.insert(row.at("customer_id")).second);
    if (is_repurchase(row)) continue;
    double& chance = least.try_emplace(row.at("product_id"), 1).first->second;
    chance = std::min(chance, std::stod(row.at("probability")));
  }
  EXPECT_EQ(given, (std::map<std::string, int>{{"P1", 10}, {"P31", 3}, {"P45", 5}}));
  // Customers without an offer had no higher probability of buying what is new to them, too. What they buy
  // again by themselves does not count.
  EXPECT_EQ(offers({"--only", "P45,P1,P31", "--rank-by", "probability"}).exit_code, 0);
  for (const auto& row : rows("offers.csv"))
    if (!customers.contains(row.at("customer_id")) && !is_repurchase(row)) {
      ++compared;
      EXPECT_LE(std::stod(row.at("probability")), least.at(row.at("product_id")));
    }
  EXPECT_GT(compared, 100);
}

/// A plan for a part of the customers that learns from the rest is that of the whole.
TEST_F(OffersProgram, LearnsFromAnotherDaybook) {
  EXPECT_EQ(offers({}).exit_code, 0);
  const Rows whole = rows("offers.csv");
  ASSERT_EQ(run_pear(*folder_, {"import", "d/shop.toml", "--customers", "1/5", "--daybook", "part.daybook"})
                .exit_code,
            0);
  const ProgramRun run =
      run_pear(*folder_, {"offers", "part.daybook", "--learn", "d/thistledown.daybook", "--figure", "none"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(run.out.find("Planned for "), std::string::npos) << run.out;
  const Rows part = rows("offers.csv");
  std::set<std::string> customers;
  for (const auto& row : part) customers.insert(row.at("customer_id"));
  EXPECT_GT(customers.size(), 100U);
  Rows expected;
  for (const auto& row : whole)
    if (customers.contains(row.at("customer_id"))) expected.push_back(row);
  EXPECT_EQ(part, expected);
  EXPECT_EQ(offers({"--learn", "nowhere.daybook"}).exit_code, 4);
}

TEST_F(OffersProgram, WhereChoosesCustomersAndKeepsTheEvidenceOfAll) {
  EXPECT_EQ(offers({}).exit_code, 0);
  std::map<std::string, std::string> of_all;
  for (const auto& row : rows("offers.csv"))
    of_all[row.at("customer_id") + row.at("rank")] = row.at("reason");
  const ProgramRun run = offers({"--customers", "region = 'North'"});
  EXPECT_NE(run.out.find("Planned for 214 of the 1,109 customers; learned from all."), std::string::npos);
  const Rows north = rows("offers.csv");
  ASSERT_GT(north.size(), 200U);
  EXPECT_LT(north.size(), of_all.size() / 3);
  for (const auto& row : north)
    EXPECT_EQ(row.at("reason"), of_all.at(row.at("customer_id") + row.at("rank")));
  EXPECT_EQ(offers({"--where", "region = 'North'"}).exit_code, 0);
  EXPECT_NE(rows("offers.csv").front().at("reason"), north.front().at("reason"));
}

TEST_F(OffersProgram, OneCustomerHasTheOffersOfThePlanWithHistory) {
  EXPECT_EQ(offers({}).exit_code, 0);
  const auto first = rows("offers.csv").front();
  const ProgramRun run = offers({"--customer", first.at("customer_id"), "--name", "one"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_EQ(rows("one.csv").front(), first);
  EXPECT_FALSE(rows("one-evidence.csv").empty());
  EXPECT_FALSE(rows("one-history.csv").empty());
}

TEST_F(OffersProgram, BacktestOnTheDemoBeatsAllBaselinesAndIsCalibrated) {
  const ProgramRun run = offers({"--test", "90"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  int compared = 0;
  for (const auto& row : rows("offers-test.csv")) {
    if (row.at("first") != "3" || row.at("plan_advantage_low").empty()) continue;
    ++compared;
    EXPECT_GT(std::stod(row.at("plan_advantage_low")), 0) << row.at("method");
  }
  EXPECT_EQ(compared, 9);  // baselines of new products and of repurchases
  EXPECT_NE(run.out.find("significantly more than with any"), std::string::npos);
  constexpr double kNear = 0.03;  // 500 pairs of which a quarter is bought: standard error 0.02
  for (const auto& row : rows("offers-calibration.csv"))
    if (std::stoi(row.at("pairs")) >= 500) {
      EXPECT_NEAR(std::stod(row.at("stated")), std::stod(row.at("observed")), kNear)
          << row.at("probability_from");
    }
}

TEST_F(OffersProgram, ReportsMistakesInAStockList) {
  const auto error = [&](const std::string& list) {
    folder_->write("bad.csv", list);
    const ProgramRun run = offers({"--stock", "bad.csv"});
    EXPECT_EQ(run.exit_code, 3);
    return run.err;
  };
  EXPECT_EQ(
      error("product_id,pieces\nP45,5\nP1,x\n"),
      "pear-thread: error: bad.csv line 3, column pieces: \"x\" is not a number of pieces, 0 or more.\n");
  EXPECT_EQ(error("a,b\n1,2\n"),
            "pear-thread: error: bad.csv: a stock list needs the columns product_id and pieces; this one has "
            "a, b.\n");
  EXPECT_EQ(
      error("product_id,pieces\nP45,5\nP45,2\n"),
      "pear-thread: error: bad.csv line 3: \"P45\" is on line 2 already. Keep one row for each product.\n");
  EXPECT_EQ(error("product_id,pieces\nP45\n"),
            "pear-thread: error: bad.csv line 2: has 1 field where the header has 2.\n");
  const ProgramRun missing = offers({"--stock", "nowhere.csv"});
  EXPECT_EQ(missing.exit_code, 4);
  EXPECT_EQ(missing.err, "pear-thread: error: cannot open nowhere.csv: No such file or directory\n");
}

}  // namespace
}  // namespace pear::test
