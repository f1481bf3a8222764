// The plan: its bounds, its options, and what it must not know.
#include <array>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "questions/offers/made_shop.hpp"

namespace pear::test {
namespace {

TEST(OfferPlan, LaterSalesDoNotChangeThePlan) {
  MadeShop shop = make_shop(250, true, true, 5);
  const int cut = kLastDay - 100;
  const analysis::OptionValues options = {{"as-of", to_text(Date{cut})}, {"min-probability", "0"}};
  const auto cells = [&] {
    const result::Result result = ask("offers", options, daybook_of(shop));
    std::vector<Cells> all;
    for (const result::Table& each : result.tables) all.push_back(cells_of(each));
    return all;
  };
  const auto before = cells();
  ASSERT_GT(before[0].size(), 100U);
  for (Sale& sale : shop.sales)
    if (day_of(sale.date) > cut) sale.product_id = "P1", sale.quantity = 9, sale.unit_price = 77;
  EXPECT_TRUE(cells() == before);
  for (Sale& sale : shop.sales)
    if (day_of(sale.date) > cut - 100 && sale.product_id == "P4") sale.product_id = "P30";
  EXPECT_FALSE(cells() == before);  // as earlier ones do
}

TEST(OfferPlan, ChooseTheMostInformativeGroups) {
  const auto note = [](const MadeShop& shop) { return ask("offers", {}, daybook_of(shop)).notes.front(); };
  EXPECT_NE(note(make_shop(200, false, true, 8)).find("groups by kind, the most informative column"),
            std::string::npos);
  EXPECT_NE(note(make_shop(200, false, false, 8)).find("all customers are one group"), std::string::npos);
}

/// Bounds of all kinds hold on shops of any kind, and any number of threads gives the same.
RC_GTEST_PROP(OfferPlan, StayWithinTheirBounds, ()) {
  const MadeShop shop =
      make_shop(pick(20, 60), pick(0, 1) == 1, pick(0, 1) == 1, static_cast<unsigned>(pick(0, 10'000)));
  const daybook::Daybook daybook = daybook_of(shop);
  const int most = pick(1, 4), budget = pick(1, 20), as_of = kLastDay - pick(0, 200);
  const double least = pick(0, 5) / 100.0;
  const analysis::OptionValues options = {{"per-customer", std::to_string(most)},
                                          {"budget", std::to_string(budget)},
                                          {"exclude", "P7,P8"},
                                          {"as-of", to_text(Date{as_of})},
                                          {"horizon", std::to_string(pick(20, 120))},
                                          {"min-probability", fmt::format("{:.2f}", least)},
                                          {"where", "product_id <> 'P9'"}};
  const auto result = try_to_ask("offers", options, daybook);
  if (!result) {
    RC_ASSERT(result.error().kind == ErrorKind::data || result.error().kind == ErrorKind::usage);
    return;
  }
  expect_checks_hold(*result);
  const Bought bought = bought_until(shop.sales, as_of);
  std::map<std::string, int> offers;
  std::set<std::pair<std::string, std::string>> offered;
  double last_value = 0;
  for (const auto& row :
       columns_of(table(*result, ""), {"customer_id", "rank", "product_id", "probability", "expected_amount",
                                       "triggered_by", "best_from", "best_until"})) {
    RC_ASSERT(std::stoi(row[1]) == ++offers[row[0]] && std::stoi(row[1]) <= most);
    RC_ASSERT(row[2] != "P7" && row[2] != "P8");
    RC_ASSERT(offered.emplace(row[0], row[2]).second);
    RC_ASSERT(row[5].empty() || bought.at(row[0]).contains(row[5]));
    RC_ASSERT(std::stod(row[3]) >= least - 1e-6 && std::stod(row[3]) <= 1);
    RC_ASSERT(offered.size() == 1 || std::stod(row[4]) <= last_value);
    RC_ASSERT(day_of(row[6]) > as_of && row[6] <= row[7]);
    last_value = std::stod(row[4]);
  }
  RC_ASSERT(offers.size() <= static_cast<std::size_t>(budget));
  tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
  const auto again = try_to_ask("offers", options, daybook);
  for (std::size_t i = 0; i < result->tables.size(); ++i)
    RC_ASSERT(cells_of(again->tables[i]) == cells_of(result->tables[i]));
}

/// Products that are bought again by themselves count less; for new ones nothing changes.
TEST(OfferPlan, UpliftLeavesOutWhatCustomersBuyByThemselves) {
  const daybook::Daybook daybook = daybook_of(make_shop(300, true, true, 11));
  const auto purchases = [&](analysis::OptionValues options) {
    options.insert(options.end(), {{"per-customer", "50"}, {"min-probability", "0"}});
    std::map<std::pair<std::string, std::string>, std::pair<double, bool>> found;
    for (const auto& row : columns_of(table(ask("offers", options, daybook), ""),
                                      {"customer_id", "product_id", "expected_purchases", "reason"}))
      found[{row[0], row[1]}] = {std::stod(row[2]), row[3].starts_with("bought it ")};
    return found;
  };
  const auto all = purchases({}), of_offers = purchases({{"uplift", ""}});
  int fewer = 0;
  ASSERT_GT(of_offers.size(), 1'000U);
  for (const auto& [offer, counted] : of_offers) {
    const auto& [with_and_without, is_again] = all.at(offer);
    EXPECT_EQ(is_again, counted.second);
    if (!is_again) {
      EXPECT_EQ(counted.first, with_and_without);
    } else {
      EXPECT_LE(counted.first, with_and_without);
      fewer += counted.first < with_and_without / 2 ? 1 : 0;
    }
  }
  EXPECT_GT(fewer, 50);
}

/// The same customers in every plan; the others' offers do not change, and only these count.
TEST(OfferPlan, AControlGroupIsRandomAndDoesNotCount) {
  const daybook::Daybook daybook = daybook_of(make_shop(400, true, true, 13));
  const auto rows_of = [&](const analysis::OptionValues& options) {
    return columns_of(table(ask("offers", options, daybook), ""),
                      {"customer_id", "product_id", "rank", "group"});
  };
  const result::Result with = ask("offers", {{"control", "25%"}}, daybook);
  expect_checks_hold(with);
  const Cells all = columns_of(table(ask("offers", {}, daybook), ""), {"customer_id", "product_id", "rank"});
  const Cells rows = rows_of({{"control", "25%"}});
  std::set<std::string> control, contacted;
  Cells without_group;
  std::map<std::string, int> offered;
  for (const auto& row : rows) {
    (row[3] == "control" ? control : contacted).insert(row[0]);
    if (row[3] == "offer") ++offered[row[1]];
    without_group.push_back({row[0], row[1], row[2]});
  }
  EXPECT_EQ(std::set(without_group.begin(), without_group.end()), std::set(all.begin(), all.end()));
  const double share =
      static_cast<double>(control.size()) / static_cast<double>(control.size() + contacted.size());
  EXPECT_NEAR(share, 0.25, 0.07);
  for (const auto& row : rows_of({{"control", "25%"}, {"rank-by", "probability"}, {"exclude", "P7"}}))
    EXPECT_EQ(row[3] == "control", control.contains(row[0])) << row[0];
  for (const auto& row : columns_of(table(with, "products"), {"product_id", "customers"}))
    EXPECT_EQ(std::to_string(offered[row[0]]), row[1]) << row[0];
  EXPECT_NE(with.headline[0].find(fmt::format("to {} of", contacted.size())), std::string::npos)
      << with.headline[0];
}

TEST(OfferPlan, ContributionsOfTheEvidenceAddUpToTheProbability) {
  const daybook::Daybook daybook = daybook_of(make_shop(300, true, true, 12));
  int offers = 0, with_steps = 0;
  for (int customer = 0; customer < 15; ++customer) {
    const auto result = try_to_ask("offers", {{"customer", fmt::format("C{}", customer)}}, daybook);
    if (!result) continue;  // who bought nothing
    std::map<std::string, double> sums;
    std::map<std::string, int> rows;
    for (const auto& row : columns_of(table(*result, "observed"), {"product_id", "contribution"}))
      sums[row[0]] += std::stod(row[1]), ++rows[row[0]];
    for (const auto& row : columns_of(table(*result, ""), {"product_id", "probability"})) {
      EXPECT_NEAR(sums.at(row[0]), std::stod(row[1]), 1e-5) << customer << " " << row[0];
      ++offers, with_steps += rows.at(row[0]) > 1 ? 1 : 0;
    }
  }
  EXPECT_GT(offers, 50);
  EXPECT_GT(with_steps, 3);
}

/// Nobody had bought it by the day of the plan, so that nothing speaks for or against it.
TEST(OfferPlan, DoesNotOfferWhatNobodyBoughtYet) {
  MadeShop shop = make_shop(150, true, true, 16);
  const int as_of = kLastDay - 60;
  shop.sales.push_back({"A-new", to_text(Date{as_of + 5}), "C1", "P99", 1, 500});
  const daybook::Daybook daybook = daybook_of(shop);
  for (const std::string method : {"plan", "best-sellers"})
    for (const bool uplift : {false, true}) {
      analysis::OptionValues options = {{"as-of", to_text(Date{as_of})},
                                        {"per-customer", "50"},
                                        {"min-probability", "0"},
                                        {"method", method}};
      if (uplift) options.emplace_back("uplift", "");
      const result::Result plan = ask("offers", options, daybook);
      for (const result::Check& check : plan.checks) EXPECT_TRUE(check.holds) << method << check.statement;
      const Cells rows = columns_of(table(plan, ""), {"product_id", "expected_amount"});
      EXPECT_GT(rows.size(), 100U) << method;
      for (const auto& row : rows) {
        EXPECT_NE(row[0], "P99") << method;
        EXPECT_GT(std::stod(row[1]), -0.001) << method;
      }
    }
}

/// Of every offer, of any kind.
TEST(OfferPlan, PartsOfEachProbabilityAddUpToIt) {
  const result::Result plan =
      ask("offers", {{"per-customer", "8"}}, daybook_of(make_shop(300, true, true, 12)));
  const Cells rows =
      columns_of(table(plan, "evidence"), {"customer_id", "product_id", "probability", "segment",
                                           "similar_customers", "own_purchases", "trends", "steps"});
  const Cells offers =
      columns_of(table(plan, ""), {"customer_id", "product_id", "probability", "triggered_by", "reason"});
  ASSERT_EQ(rows.size(), offers.size());
  std::array<int, 5> used{};
  for (std::size_t row = 0; row < rows.size(); ++row) {
    EXPECT_EQ(rows[row][0] + rows[row][1] + rows[row][2], offers[row][0] + offers[row][1] + offers[row][2]);
    double sum = 0;
    for (std::size_t part = 0; part < used.size(); ++part) {
      sum += std::stod(rows[row][3 + part]);
      used[part] += std::stod(rows[row][3 + part]) != 0 ? 1 : 0;
    }
    EXPECT_NEAR(sum, std::stod(offers[row][2]), 4e-6) << row;
    const bool is_again = offers[row][4].starts_with("bought it ");
    EXPECT_EQ(std::stod(rows[row][3]) == 0, is_again) << offers[row][4];
    EXPECT_EQ(std::stod(rows[row][5]) == 0, !is_again) << offers[row][4];
    if (!offers[row][3].empty()) {
      EXPECT_GT(std::stod(rows[row][7]), std::stod(offers[row][2]) / 2 - 1e-6) << row;
    }
  }
  for (const int offers_with_part : used) EXPECT_GT(offers_with_part, 30);
}

/// The customers contacted are those to whom all offers together can bring most.
TEST(OfferPlan, ABudgetChoosesByWhatOffersCause) {
  const daybook::Daybook daybook = daybook_of(make_shop(300, true, true, 14));
  const analysis::OptionValues all = {{"per-customer", "50"}, {"min-probability", "0"}};
  analysis::OptionValues uplift = all, budget = all;
  uplift.emplace_back("uplift", "");
  budget.emplace_back("budget", "40");
  std::map<std::string, double> caused;
  for (const auto& row :
       columns_of(table(ask("offers", uplift, daybook), ""), {"customer_id", "expected_amount"}))
    caused[row[0]] += std::stod(row[1]);
  std::set<std::string> chosen;
  for (const auto& row : columns_of(table(ask("offers", budget, daybook), ""), {"customer_id"}))
    chosen.insert(row[0]);
  EXPECT_EQ(chosen.size(), 40U);
  double least = 1e9, most = 0;
  for (const auto& [customer, amount] : caused)
    (chosen.contains(customer) ? least = std::min(least, amount) : most = std::max(most, amount));
  constexpr double kRounding = 0.3;  // 50 offers, each rounded to cents
  EXPECT_GE(least, most - kRounding);
}

/// Row by row and side by side, the lists contain the offers to contact and nothing else.
TEST(OfferPlan, CampaignListsContainTheOffers) {
  const daybook::Daybook daybook = daybook_of(make_shop(200, true, true, 15));
  const auto plan = [&](const char* list) {
    return ask("offers", {{"control", "30%"}, {"list", list}}, daybook);
  };
  const result::Result of_customers = plan("customers"), of_products = plan("products");
  Cells offers;
  for (auto& row : columns_of(table(of_customers, ""),
                              {"group", "customer_id", "product_id", "best_from", "best_until", "rank"}))
    if (row[0] == "offer") offers.push_back({row[1], row[2], row[3], row[4], row[5]});
  Cells listed;
  for (const std::string place : {"1", "2", "3"})
    for (auto& row : columns_of(table(of_customers, "list"), {"customer_id", "product_" + place,
                                                              "best_from_" + place, "best_until_" + place}))
      if (!row[1].empty()) listed.push_back({row[0], row[1], row[2], row[3], place});
  EXPECT_EQ(sorted(listed), sorted(offers));
  Cells by_product =
      columns_of(table(of_products, "list"), {"customer_id", "product_id", "best_from", "best_until"});
  for (auto& row : offers) row.pop_back();
  EXPECT_EQ(sorted(by_product), sorted(offers));
  std::string last_product;
  double last_amount = 0;
  std::set<std::string> products;
  for (const auto& row : columns_of(table(of_products, "list"), {"product_id", "expected_amount"})) {
    if (row[0] == last_product) {
      EXPECT_LE(std::stod(row[1]), last_amount);
    } else {
      EXPECT_TRUE(products.insert(row[0]).second) << row[0];
    }
    last_product = row[0], last_amount = std::stod(row[1]);
  }
}

TEST(OfferPlan, ReportsMistakes) {
  const daybook::Daybook daybook = daybook_of(make_shop(60, true, true, 9));
  const auto error = [&](const analysis::OptionValues& options) {
    return try_to_ask("offers", options, daybook).error().message;
  };
  EXPECT_EQ(error({{"folds", "2"}}), "--folds needs --test DAYS.");
  EXPECT_EQ(error({{"test", "90"}, {"horizon", "30"}}),
            "--test 90 holds out as many days as the plan covers; leave out --horizon 30.");
  EXPECT_EQ(error({{"test", "90"}, {"budget", "3"}}),
            "--test scores the first 1, 3 and 5 offers of every method to every active customer; leave out "
            "--stock, --budget, --control, --customer, --min-probability, --method and --list.");
  EXPECT_EQ(error({{"customer", "C1"}, {"budget", "3"}}),
            "--customer shows the offers to one customer without regard to the others; leave out --stock, "
            "--budget, --control and --list.");
  EXPECT_EQ(error({{"rank-by", "margin"}}),
            "--rank-by margin needs costs, but the daybook has no unit_cost. Use amount or probability.");
  EXPECT_EQ(
      error({{"exclude", "P1,P111"}}),
      "--exclude: there is no product with \"P111\" in its id among the selected 30. Did you mean \"P11\"?");
  EXPECT_EQ(error({{"only", "P1,,P2"}}), "--only \"P1,,P2\": there is no product between two commas.");
  EXPECT_EQ(error({{"test", "90"}, {"folds", "8"}}),
            "too little is known before 2022-04-18 to plan from it: the sales up to 2022-04-17 cover 100 "
            "days; to learn what customers buy within 90 days, at least 151 are needed. Use a smaller "
            "--test, or fewer --folds.");
  EXPECT_EQ(error({{"min-probability", "2"}}),
            "--min-probability 2: a number above 1 needs a per cent sign. Write 2% or 0.02.");
  EXPECT_EQ(error({{"as-of", "2020-01-01"}}),
            "--as-of 2020-01-01 is earlier than the first sale, 2022-01-08. Choose a later day.");
  EXPECT_EQ(error({{"as-of", "2022-02-06"}}),
            "the sales up to 2022-02-06 cover 30 days; to learn what customers buy within 90 days, at least "
            "151 are needed. Use a smaller --horizon, or a later --as-of.");
  EXPECT_EQ(error({{"horizon", "700"}}),
            "the sales up to 2024-01-07 cover 730 days; to learn what customers buy within 700 days, at "
            "least 761 are needed. Use a smaller --horizon.");
}

}  // namespace
}  // namespace pear::test
