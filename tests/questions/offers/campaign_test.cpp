// --measure: a campaign compared with its control group, counted again by hand; and its mistakes.
#include <array>
#include <climits>
#include <map>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

int day_number(const std::string& text) { return parse_iso_moment(text.substr(0, 10))->date.days; }

analysis::SideTable campaign_table(std::vector<std::vector<std::string>> rows) {
  analysis::SideTable table{
      "campaign.csv", {"customer_id", "product_id", "group", "plan_from", "plan_until"}, std::move(rows), {}};
  for (std::size_t row = 0; row < table.rows.size(); ++row) table.lines.push_back(row + 2);
  return table;
}

OrError<result::Result> measure(const analysis::SideTable& table, const Sales& sales,
                                analysis::OptionValues options = {}) {
  options.emplace_back("measure", "campaign.csv");
  return try_to_ask("offers", options, build(sales).daybook, "", {{"measure", table}});
}

/// The sums of one group, by hand.
struct SlowGroup {
  int customers = 0, offers = 0, buyers = 0, bought = 0, ordering = 0, orders = 0;
  std::int64_t amount = 0, all_amount = 0;  // cents
};

/// A random campaign in a random shop, most of whose customers and products exist.
struct SlowCampaign {
  std::map<std::string, std::set<std::string>> offers;
  std::map<std::string, bool> is_control;
  std::vector<std::vector<std::string>> rows;
};

SlowCampaign random_campaign(const Sales& sales, const std::string& from, const std::string& until) {
  SlowCampaign campaign;
  std::set<std::string> customers = {"nobody"}, products = {"nothing"};
  for (const Sale& sale : sales) customers.insert(sale.customer_id), products.insert(sale.product_id);
  const std::vector<std::string> ids(products.begin(), products.end());
  for (const std::string& customer : customers) {
    if (pick(0, 5) == 0) continue;
    campaign.is_control[customer] = pick(0, 1) == 1;
    for (int offer = pick(1, 4); offer > 0; --offer) {
      const std::string& product = ids[static_cast<std::size_t>(pick(0, static_cast<int>(ids.size()) - 1))];
      campaign.offers[customer].insert(product);
      campaign.rows.push_back(
          {customer, product, campaign.is_control[customer] ? "control" : "offer", from, until});
    }
  }
  return campaign;
}

std::array<SlowGroup, 2> count_by_hand(const SlowCampaign& campaign, const Sales& sales, int from,
                                       int until) {
  std::array<SlowGroup, 2> groups;
  for (const auto& [customer, offered] : campaign.offers) {
    SlowGroup& group = groups[campaign.is_control.at(customer) ? 1 : 0];
    ++group.customers;
    group.offers += static_cast<int>(offered.size());
    std::set<std::string> orders, bought;
    for (const Sale& sale : sales) {
      const int day = day_number(sale.date);
      if (sale.customer_id != customer || day < from || day > until) continue;
      group.all_amount += sale.quantity * sale.unit_price;
      if (!is_return(sale)) orders.insert(sale.order_id);
      if (sale.is_fee || !offered.contains(sale.product_id)) continue;
      group.amount += sale.quantity * sale.unit_price;
      if (!is_return(sale)) bought.insert(sale.product_id);
    }
    group.buyers += bought.empty() ? 0 : 1;
    group.bought += static_cast<int>(bought.size());
    group.ordering += orders.empty() ? 0 : 1;
    group.orders += static_cast<int>(orders.size());
  }
  return groups;
}

RC_GTEST_PROP(Campaign, EqualsCountsByHand, ()) {
  Sales sales = random_sales();
  int first = INT_MAX, last = 0;
  std::map<std::pair<std::string, std::string>, std::string> dates;  // an order has one date
  for (Sale& sale : sales) {
    sale.date = dates.try_emplace({sale.customer_id, sale.order_id}, sale.date).first->second;
    first = std::min(first, day_number(sale.date)), last = std::max(last, day_number(sale.date));
  }
  const int from = pick(first, last), until = pick(from, last);
  const SlowCampaign campaign = random_campaign(sales, to_text(Date{from}), to_text(Date{until}));
  const auto groups = count_by_hand(campaign, sales, from, until);
  const auto result = campaign.rows.empty() ? OrError<result::Result>(data_error(""))
                                            : measure(campaign_table(campaign.rows), sales);
  const bool has_purchases =
      std::any_of(sales.begin(), sales.end(), [](const Sale& sale) { return !is_return(sale); });
  const bool knows_any = campaign.offers.size() > campaign.offers.count("nobody");
  RC_PRE(groups[0].customers > 0 && groups[1].customers > 0 && has_purchases && knows_any);
  if (!result) RC_FAIL(result.error().message);
  expect_checks_hold(*result);
  const Cells rows = columns_of(
      table(*result, ""), {"customers", "offers", "bought_an_offer", "offers_bought", "amount_per_offer",
                           "offered_amount", "all_amount", "ordered", "orders"});
  const auto near = [](const std::string& cell, double expected, double margin) {
    return std::abs(std::stod(cell) - expected) <= margin + 1e-9;
  };
  for (std::size_t i = 0; i < groups.size(); ++i) {
    const SlowGroup& group = groups[i];
    const double customers = group.customers;
    RC_ASSERT(rows[i][0] == std::to_string(group.customers) && rows[i][1] == std::to_string(group.offers));
    RC_ASSERT(near(rows[i][2], group.buyers / customers, 1e-6));
    RC_ASSERT(near(rows[i][3], group.bought / customers, 1e-4));
    RC_ASSERT(near(rows[i][4], static_cast<double>(group.amount) / 100 / group.offers, 0.01));
    RC_ASSERT(near(rows[i][5], static_cast<double>(group.amount) / 100 / customers, 0.01));
    RC_ASSERT(near(rows[i][6], static_cast<double>(group.all_amount) / 100 / customers, 0.01));
    RC_ASSERT(near(rows[i][7], group.ordering / customers, 1e-6));
    RC_ASSERT(near(rows[i][8], group.orders / customers, 1e-4));
  }
  for (const std::size_t figure : {2U, 3U, 7U, 8U}) {
    RC_ASSERT(near(rows[2][figure], std::stod(rows[0][figure]) - std::stod(rows[1][figure]), 2e-4));
    if (!rows[3][figure].empty())
      RC_ASSERT(std::stod(rows[3][figure]) <= std::stod(rows[2][figure]) + 1e-4 &&
                std::stod(rows[2][figure]) <= std::stod(rows[4][figure]) + 1e-4);
  }
}

/// 400 customers of each group; offers raise purchases of A from 20% to 50% and change nothing about B.
TEST(Campaign, FindsWhatOffersCause) {
  Sales sales = {{"O0", "2024-01-01", "C0", "Z", 1, 100}, {"O1", "2024-04-30", "C0", "Z", 1, 100}};
  std::vector<std::vector<std::string>> rows;
  for (int i = 1; i <= 800; ++i) {
    const bool control = i % 2 == 0;
    const std::string customer = fmt::format("C{}", i), order = fmt::format("P{}", i);
    for (const std::string product : {"A", "B"})
      rows.push_back({customer, product, control ? "control" : "offer", "2024-02-01", "2024-04-30"});
    if (i / 2 % 10 < (control ? 2 : 5)) sales.push_back({order, "2024-03-01", customer, "A", 1, 1000});
    if (i / 2 % 10 == 0) sales.push_back({order, "2024-03-01", customer, "B", 1, 500});
    sales.push_back({order + "before", "2024-01-15", customer, "A", 1, 1000});
  }
  const auto result = measure(campaign_table(rows), sales);
  ASSERT_TRUE(result) << result.error().message;
  EXPECT_EQ(
      result->headline[0],
      "50.0% of 400 offered customers bought a product offered to them, and 20.0% of 400 control customers: "
      "30.0 points more, a significant difference (95% interval 23.6 to 36.1).");
  EXPECT_EQ(result->headline[1],
            "The offers caused 1,200.00 sales of the offered products: 1.50 per offer (95% interval 1.12 to "
            "1.88).");
  EXPECT_EQ(result->headline[2],
            "Largest significant difference: A, bought by 50.0% of the offered and 20.0% of the control "
            "customers.");
  const Cells products = columns_of(table(*result, "products"),
                                    {"product_id", "offered", "offered_buyers", "control", "control_buyers"});
  EXPECT_EQ(products, (Cells{{"A", "400", "200", "400", "80"}, {"B", "400", "40", "400", "40"}}));
}

/// Both groups consist of the chosen customers; the others' purchases do not count.
TEST(Campaign, ComparesOnlyChosenCustomers) {
  Sales sales;
  std::vector<std::vector<std::string>> rows;
  for (int i = 0; i < 40; ++i) {
    const std::string customer = fmt::format("C{}", i), product = i < 20 ? "A" : "B";
    rows.push_back({customer, "A", i % 2 == 0 ? "control" : "offer", "2024-02-01", "2024-03-31"});
    sales.push_back({fmt::format("O{}", i), "2024-01-01", customer, product, 1, 100});
    sales.push_back({fmt::format("P{}", i), "2024-03-31", customer, "A", 1, 100});
  }
  const auto result = measure(campaign_table(rows), sales, {{"customers", "product_id = 'B'"}});
  ASSERT_TRUE(result) << result.error().message;
  const Cells groups = columns_of(table(*result, ""), {"customers", "bought_an_offer"});
  EXPECT_EQ(groups[0], (Cells::value_type{"10", "1.000000"}));
  EXPECT_EQ(groups[1], (Cells::value_type{"10", "1.000000"}));
  EXPECT_EQ(result->notes.back(),
            "Only the customers that --customers or --quiet-since chooses are compared.");
}

TEST(Campaign, ReportsMistakes) {
  const Sales sales = {{"O1", "2024-01-01", "C1", "A", 1, 100}, {"O2", "2024-03-31", "C2", "B", 1, 100}};
  const auto error = [&](const analysis::SideTable& table, const analysis::OptionValues& options = {}) {
    return measure(table, sales, options).error().message;
  };
  const std::vector<std::string> offered = {"C1", "A", "offer", "2024-02-01", "2024-03-31"},
                                 control = {"C2", "A", "control", "2024-02-01", "2024-03-31"};
  EXPECT_EQ(error(campaign_table({offered, control}), {{"budget", "3"}}),
            "--measure compares the customers of a campaign that is over; leave out --budget.");
  EXPECT_EQ(error(campaign_table({})), "campaign.csv has no offers, only a header.");
  EXPECT_EQ(
      error(campaign_table({offered})),
      "campaign.csv has no row of the group control, so there is nothing to compare. Make the plan with "
      "--control 10%, and measure its file offers.csv.");
  EXPECT_EQ(error(campaign_table({offered, control, {"C1", "B", "control", "2024-02-01", "2024-03-31"}})),
            "campaign.csv line 4: customer \"C1\" belongs to both groups. Remove the rows of one.");
  EXPECT_EQ(error(campaign_table({offered, {"C2", "A", "test", "2024-02-01", "2024-03-31"}})),
            "campaign.csv line 3, column group: \"test\" is not a group. Write offer or control.");
  EXPECT_EQ(
      error(campaign_table({offered, {"C2", "A", "control", "2024-02-02", "2024-03-31"}})),
      "campaign.csv line 3, column plan_from: \"2024-02-02\" differs from \"2024-02-01\" in the rows before. "
      "Measure one campaign at a time.");
  EXPECT_EQ(error(campaign_table({{"C1", "A", "offer", "1.2.2024", "2024-03-31"}, control})),
            "campaign.csv line 2, column plan_from: \"1.2.2024\" is not a date (YYYY-MM-DD).");
  EXPECT_EQ(
      error(campaign_table({offered, control}), {{"horizon", "90"}}),
      "the sales end on 2024-03-31, but the campaign lasts until 2024-04-30. Import newer sales, or compare "
      "its first days with --horizon 60.");
  EXPECT_EQ(error(campaign_table({offered, control}), {{"as-of", "2024-03-31"}}),
            "campaign.csv: the campaign ends on 2024-03-31, before it begins on 2024-04-01.");
  EXPECT_EQ(
      error(campaign_table({{"X1", "A", "offer", "2024-02-01", "2024-03-31"},
                            {"X2", "A", "control", "2024-02-01", "2024-03-31"}})),
      "none of the 2 customers of campaign.csv is in the daybook: check that its customer_id has the ids of "
      "this shop.");
  analysis::SideTable bare = campaign_table({offered, control});
  bare.header = {"customer_id", "product_id", "group", "x", "y"};
  EXPECT_EQ(error(bare),
            "campaign.csv has no column plan_from, so the first day of the campaign is unknown. Give the day "
            "of the "
            "plan with --as-of DATE.");
  EXPECT_TRUE(measure(bare, sales, {{"as-of", "2024-01-31"}, {"horizon", "60"}}));
  bare.header[2] = "arm";
  EXPECT_EQ(error(bare),
            "campaign.csv: a campaign needs the columns customer_id, product_id and group; this one has "
            "customer_id, "
            "product_id, arm, x, y.");
}

}  // namespace
}  // namespace pear::test
