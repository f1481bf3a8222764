// The backtest compared with plans and later sales; shops with and without structure.
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "base/text.hpp"
#include "questions/offers/backtest_finding.hpp"
#include "questions/offers/made_shop.hpp"

namespace pear::test {
namespace {

/// Whether a customer bought a product within 60 days after a day.
bool buys(const Bought& all, const std::string& customer, const std::string& product, int cut) {
  const auto& products = all.at(customer);
  const auto own = products.find(product);
  return own != products.end() && std::any_of(own->second.begin(), own->second.end(),
                                              [&](int day) { return day > cut && day <= cut + 60; });
}

/// Hits at 1, 3 and 5 of plans by probability and by each method, made as of each cut and compared with what
/// was bought then; and offers of the plan.
TEST(OfferBacktest, EqualsPlansComparedWithLaterSales) {
  const std::map<std::string, std::string> methods = {
      {"plan by probability", "plan"},
      {"best sellers", "best-sellers"},
      {"best sellers of the kind", "segment-best-sellers"},
      {"bought together with the last order", "bought-together"},
      {"products with the same buyers", "same-buyers"},
      {"linear model of products", "linear-model"},
      {"latent classes of customers", "classes"},
      {"best sellers among own products", "own-best-sellers"},
      {"bought most often", "bought-most-often"},
      {"bought most often lately", "bought-recently"}};
  const MadeShop shop = make_shop(300, true, true, 4);
  const daybook::Daybook daybook = daybook_of(shop);
  const result::Result test = ask("offers", {{"test", "60"}, {"folds", "2"}, {"per", "kind"}}, daybook);
  expect_checks_hold(test);
  const Bought all = bought_until(shop.sales, kLastDay);
  int last = 0;
  for (const Sale& sale : shop.sales) last = std::max(last, day_of(sale.date));
  std::map<std::pair<std::string, int>, std::array<int, 2>> counts;  // by method and depth: offers, hits
  for (const auto& [name, method] : methods)
    for (const int cut : {last - 60, last - 120})
      for (const auto& row : columns_of(table(ask("offers",
                                                  {{"as-of", to_text(Date{cut})},
                                                   {"horizon", "60"},
                                                   {"per", "kind"},
                                                   {"min-probability", "0"},
                                                   {"per-customer", "5"},
                                                   {"method", method},
                                                   {"rank-by", "probability"}},
                                                  daybook),
                                              ""),
                                        {"customer_id", "rank", "product_id"}))
        for (const int depth : {1, 3, 5})
          if (std::stoi(row[1]) <= depth) {
            ++counts[{name, depth}][0];
            counts[{name, depth}][1] += buys(all, row[0], row[2], cut) ? 1 : 0;
          }
  int seen = 0;
  for (const auto& row :
       columns_of(table(test, "test"), {"purchases", "method", "first", "offers", "hits"})) {
    if (row[1].starts_with("plan") && (row[0] != "both" || row[1] != "plan by probability")) continue;
    ++seen;
    const auto& [offers, hits] = counts[{row[1], std::stoi(row[2])}];
    if (row[0] == "both") {
      EXPECT_EQ(row[3], std::to_string(offers)) << row[1];
    }
    EXPECT_EQ(row[4], std::to_string(hits)) << row[1] << " " << row[2];
  }
  EXPECT_EQ(seen, 3 * static_cast<int>(methods.size()));
  // Both calibrations are of the same pairs; each third of the customers has some.
  std::map<std::string, std::array<int, 4>>
      sums;  // by kind: pairs and purchases by probability, and by customers
  int thirds = 0;
  for (const auto& row : columns_of(table(test, "calibration"), {"purchases", "pairs", "bought"}))
    sums[row[0]][0] += std::stoi(row[1]), sums[row[0]][1] += std::stoi(row[2]);
  for (const auto& row :
       columns_of(table(test, "calibration-customers"), {"purchases", "pairs", "bought", "customers"})) {
    sums[row[0]][2] += std::stoi(row[1]), sums[row[0]][3] += std::stoi(row[2]);
    ++thirds;
  }
  EXPECT_EQ(thirds, 3 * static_cast<int>(sums.size()));
  for (const auto& [kind, sum] : sums) {
    EXPECT_EQ(sum[0], sum[2]) << kind;
    EXPECT_EQ(sum[1], sum[3]) << kind;
  }
}

/// Each kind of purchase is scored on purchases of its own kind only, by plan and baselines alike: the most
/// frequent product of each customer, counted again here.
TEST(OfferBacktest, BacktestsRepurchasesSeparately) {
  const MadeShop shop = make_shop(300, true, true, 4);
  const result::Result test =
      ask("offers", {{"test", "60"}, {"folds", "1"}, {"active", "3650"}}, daybook_of(shop));
  expect_checks_hold(test);
  int last = 0;
  for (const Sale& sale : shop.sales) last = std::max(last, day_of(sale.date));
  const int cut = last - 60;
  const Bought all = bought_until(shop.sales, last);
  std::map<std::string, std::size_t> buyers;  // by product, before the cut
  const auto known = [&](const std::set<int>& days) {
    return static_cast<std::size_t>(
        std::count_if(days.begin(), days.end(), [&](int day) { return day <= cut; }));
  };
  for (const auto& [customer, products] : all)
    for (const auto& [product, days] : products)
      buyers[product] += known({days.begin(), days.end()}) > 0 ? 1U : 0U;
  int hits = 0, offers = 0;
  for (const auto& [customer, products] : all) {
    std::tuple<std::size_t, std::size_t, int> best{0, 0, 0};  // orders, buyers, the first in natural order
    const std::string* chosen = nullptr;
    for (const auto& [product, days] : products) {
      const std::tuple<std::size_t, std::size_t, int> rank{known({days.begin(), days.end()}), buyers[product],
                                                           -std::stoi(product.substr(1))};
      if (std::get<0>(rank) > 0 && (chosen == nullptr || rank > best)) best = rank, chosen = &product;
    }
    if (chosen == nullptr) continue;
    ++offers;
    const auto& days = products.at(*chosen);
    hits += std::any_of(days.begin(), days.end(), [&](int day) { return day > cut; }) ? 1 : 0;
  }
  for (const auto& row : columns_of(table(test, "test"), {"purchases", "method", "first", "offers", "hits"}))
    if (row[0] == "repurchases" && row[1] == "bought most often" && row[2] == "1") {
      EXPECT_EQ(row, (Cells::value_type{"repurchases", "bought most often", "1", std::to_string(offers),
                                        std::to_string(hits)}));
    }
  EXPECT_GT(hits, 0);
}

TEST(OfferBacktest, BeatBaselinesIfThereIsStructure) {
  const result::Result test = ask("offers", {{"test", "90"}}, daybook_of(make_shop(6'000, true, true, 6)));
  double plan_low = 0;
  for (const auto& row :
       columns_of(table(test, "test"), {"method", "first", "hits_per_customer_low", "hits_per_customer_high",
                                        "plan_advantage_low", "purchases"})) {
    if (row[1] != "3" || row[5] != "new products") continue;
    if (row[0] == "plan by probability") plan_low = std::stod(row[2]);
    if (row[0].starts_with("plan")) continue;
    EXPECT_LT(std::stod(row[3]), plan_low) << row[0];
    EXPECT_GT(std::stod(row[4]), 0) << row[0];
  }
  EXPECT_NE(test.headline[0].find("significantly more than with any baseline ("), std::string::npos)
      << test.headline[0];
  int judged = 0;
  double stated = 0,
         observed = 0;  // repurchases: those that a step triggers are understated by up to 13 points
  for (const auto& row :
       columns_of(table(test, "calibration"), {"purchases", "pairs", "stated", "observed"})) {
    const int pairs = std::stoi(row[1]);
    if (pairs < 500) continue;
    if (row[0] == "repurchases") {
      stated += pairs * std::stod(row[2]), observed += pairs * std::stod(row[3]);
      continue;
    }
    ++judged;
    const double stated_share = std::stod(row[2]);
    const double standard_error = std::sqrt(stated_share * (1 - stated_share) / pairs);
    EXPECT_NEAR(stated_share, std::stod(row[3]), 0.02 + 2 * standard_error) << pairs;
  }
  EXPECT_GE(judged, 5);
  EXPECT_NEAR(stated / observed, 1, 0.1);
}

/// A shop that sells half as much except in the last quarter of each year: the probabilities stated before
/// the third such quarter match what is bought in it.
TEST(OfferBacktest, ProbabilitiesFollowTheSeason) {
  constexpr int kYear = 365, kQuarterBegins = 274;
  MadeShop shop = make_shop(3'000, true, true, 10, 3 * kYear);
  std::erase_if(shop.sales, [](const Sale& sale) {
    const int day = day_of(sale.date) - kFirstDay, customer = std::stoi(sale.customer_id.substr(1));
    return day % kYear < kQuarterBegins && (customer * 7 + day * 3) % 2 == 0;
  });
  const result::Result test = ask("offers", {{"test", "90"}, {"folds", "1"}}, daybook_of(shop));
  double stated = 0, bought = 0;
  for (const auto& row : columns_of(table(test, "calibration"), {"pairs", "bought", "stated"}))
    if (row[0] != "0") bought += std::stod(row[1]), stated += std::stoi(row[0]) * std::stod(row[2]);
  EXPECT_NEAR(stated / bought, 1, 0.05);
}

TEST(OfferBacktest, ReportNoGainIfThereIsNoStructure) {
  const result::Result test = ask("offers", {{"test", "90"}}, daybook_of(make_shop(2'000, false, false, 7)));
  for (const auto& row : columns_of(table(test, "test"), {"method", "first", "plan_advantage_high"}))
    if (row[0] == "best sellers") {
      EXPECT_GE(std::stod(row[2]), 0) << row[1];
    }
  EXPECT_NE(test.headline[0].find("not significantly more than with best sellers ("), std::string::npos)
      << test.headline[0];
  EXPECT_TRUE(test.headline[0].ends_with("earlier purchases add no information.")) << test.headline[0];
}

TEST(OfferBacktest, CalibrationTitleReportsTotalsAndTheWorstThird) {
  recommender::KindBacktest test;
  const auto set = [&](std::size_t third, double stated, std::uint64_t bought, double margin) {
    recommender::CalibrationGroup& group = test.by_purchases[third];
    group = {
        static_cast<double>(third) / 3, static_cast<double>(third + 1) / 3, 1'000, bought, stated, {}, {}};
    const double ratio = 1'000 * stated / static_cast<double>(bought);
    group.ratio = {ratio, {ratio - margin, ratio + margin}};
  };
  set(0, 0.05, 51, 0.1);
  set(1, 0.1, 104, 0.1);
  set(2, 0.2, 196, 0.1);
  EXPECT_EQ(offers::calibration_title(test),
            "350 purchases stated, 351 observed; no third of the customers differs significantly");
  set(2, 0.2, 100, 0.3);
  set(0, 0.05, 40, 0.1);
  EXPECT_EQ(offers::calibration_title(test),
            "350 purchases stated, 244 observed; customers with most purchases: 2.00 times as many stated as "
            "observed");
}

}  // namespace
}  // namespace pear::test
