// The plan: every number of its reasons compared with the sales, its backtest with plans and later sales,
// shops with and without structure, and bounds.
#include <cmath>
#include <map>
#include <random>
#include <regex>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "base/text.hpp"
#include "questions/offers/backtest_finding.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

constexpr int kFirstDay = 19'000, kDays = 730;
constexpr int kProducts = 30;

/// A shop of two years. Customers of two kinds order now and then what their kind likes. With structure, P1
/// is followed by P2 after about 30 days and that by P3 after about 50, P4 by P5 after about 70, and P6 is
/// bought again every 40 days.
struct MadeShop {
  Sales sales;
  std::vector<int> kinds;  ///< by number of the customer
};

MadeShop make_shop(int customers, bool has_structure, bool has_kinds, unsigned seed, int days = kDays) {
  std::mt19937 random(seed);
  const auto whole = [&](int low, int high) {
    return low + static_cast<int>(random() % static_cast<unsigned>(high - low + 1));
  };
  const auto happens = [&](int per_cent) { return whole(1, 100) <= per_cent; };
  MadeShop shop;
  for (int customer = 0; customer < customers; ++customer) {
    const int kind = has_kinds ? whole(0, 1) : 0;
    shop.kinds.push_back(kind);
    std::multimap<int, int> wanted;  // day, product
    constexpr int kGap = 55;
    const int begin = whole(0, days - 30);
    const auto waiting = [&] { return 1 + static_cast<int>(-kGap * std::log(whole(1, 1'000) / 1'000.0)); };
    for (int day = begin; day < days; day += waiting()) {
      const int favourite = std::min(whole(0, 11), whole(0, 11)) + kind * 12 + 7;
      wanted.emplace(day, std::min(favourite, kProducts));
      if (has_structure && happens(12)) wanted.emplace(day, 1);
      if (has_structure && happens(12)) wanted.emplace(day, 4);
      if (has_structure && happens(3)) wanted.emplace(day, 6);
    }
    const std::map<int, std::pair<int, int>> next = {{1, {2, 30}}, {2, {3, 50}}, {4, {5, 70}}, {6, {6, 40}}};
    for (const auto& [day, product] : wanted) {
      if (const auto step = next.find(product); has_structure && step != next.end() && happens(70))
        wanted.emplace(day + step->second.second + whole(-6, 6), step->second.first);
      if (day < days)
        shop.sales.push_back({fmt::format("A{}-{}", customer, day), to_text(Date{kFirstDay + day}),
                              fmt::format("C{}", customer), fmt::format("P{}", product), whole(1, 3),
                              100 * product});
    }
  }
  return shop;
}

/// With the column `kind` of customers.
daybook::Daybook daybook_of(const MadeShop& shop) {
  daybook::DaybookParts parts = build(shop.sales).daybook.take_parts();
  daybook::TextValues kinds;
  kinds.dictionary.push_back("even");
  kinds.dictionary.push_back("odd");
  for (std::uint32_t customer = 0; customer < parts.customer_ids.size(); ++customer)
    kinds.codes.push_back(static_cast<std::uint32_t>(shop.kinds[static_cast<std::size_t>(
        std::stoi(std::string(parts.customer_ids[customer]).substr(1)))]));
  parts.columns.push_back({"kind", daybook::Level::customer, std::move(kinds)});
  return daybook::Daybook(std::move(parts));
}

int day_of(const std::string& text) { return parse_iso_moment(text)->date.days; }

/// All purchases, by customer and product: days in order.
using Bought = std::map<std::string, std::map<std::string, std::vector<int>>>;

Bought bought_until(const Sales& sales, int day) {
  Bought bought;
  for (const Sale& sale : sales)
    if (sale.quantity > 0 && day_of(sale.date) <= day)
      bought[sale.customer_id][sale.product_id].push_back(day_of(sale.date));
  for (auto& [customer, products] : bought)
    for (auto& [product, days] : products) std::sort(days.begin(), days.end());
  return bought;
}

/// Purchases of customers as they were on earlier days, by hand.
struct SlowEvidence {
  Bought bought;
  std::vector<int> landmarks;
  int horizon;
  const MadeShop& shop;

  SlowEvidence(const MadeShop& made, int as_of, int days)
      : bought(bought_until(made.sales, as_of)), horizon(days), shop(made) {
    int first = INT_MAX;
    for (const Sale& sale : made.sales) first = std::min(first, day_of(sale.date));
    for (int day = as_of - days; day >= first + 60 && as_of - day <= 780; day -= (days + 2) / 3)
      landmarks.push_back(day);
  }

  [[nodiscard]] bool buys(const std::string& customer, const std::string& product, int after) const {
    const auto own = bought.at(customer).find(product);
    return own != bought.at(customer).end() &&
           std::any_of(own->second.begin(), own->second.end(),
                       [&](int day) { return day > after && day <= after + horizon; });
  }
  /// The last day up to this one, or nothing.
  [[nodiscard]] std::optional<int> last(const std::string& customer, const std::string& product,
                                        int day) const {
    std::optional<int> found;
    for (const auto& [own, days] : bought.at(customer))
      if (product.empty() || own == product)
        for (const int each : days)
          if (each <= day && (!found || each > *found)) found = each;
    return found;
  }

  struct Told {
    std::size_t customers = 0;
    double rate = 0;
  };
  mutable std::map<std::tuple<std::string, std::string, int, bool, int>, Told> told_before;
  /// Active customers without the product (or with it, if it is the earlier one) who had bought the earlier
  /// one this many days before, if there is one, and ordered since or not.
  [[nodiscard]] Told seen(const std::string& product, const std::string& earlier, int low, int high,
                          bool since, std::optional<int> kind) const {
    const auto [place, is_new] = told_before.try_emplace({product, earlier, low, since, kind.value_or(-1)});
    if (is_new) place->second = count(product, earlier, low, high, since, kind);
    return place->second;
  }
  [[nodiscard]] Told count(const std::string& product, const std::string& earlier, int low, int high,
                           bool since, std::optional<int> kind) const {
    std::set<std::string> customers;
    int cases = 0, buyers = 0;
    for (const int landmark : landmarks)
      for (const auto& [customer, products] : bought) {
        if (kind && shop.kinds[static_cast<std::size_t>(std::stoi(customer.substr(1)))] != *kind) continue;
        const auto active = last(customer, "", landmark);
        if (!active || landmark - *active >= 365) continue;
        if (product != earlier && last(customer, product, landmark)) continue;
        if (!earlier.empty()) {
          const auto before = last(customer, earlier, landmark);
          if (!before || landmark - *before < low || landmark - *before > high) continue;
          if ((*active > *before) != since) continue;
        }
        customers.insert(customer);
        ++cases;
        buyers += buys(customer, product, landmark) ? 1 : 0;
      }
    return {customers.size(), static_cast<double>(buyers) / cases};
  }

  /// Days between the last purchase of the earlier product and the first of the later one.
  [[nodiscard]] std::vector<int> gaps(const std::string& product, const std::string& earlier) const {
    std::vector<int> gaps;
    for (const auto& [customer, products] : bought) {
      const auto own = products.find(product);
      if (own == products.end()) continue;
      for (const int day : own->second) {
        if (const auto before = last(customer, earlier, day - 1); before && day - *before <= 365)
          gaps.push_back(day - *before);
        if (product != earlier) break;
      }
    }
    std::sort(gaps.begin(), gaps.end());
    return gaps;
  }
};

std::string told_share(double share) { return fmt::format("{:.1f}%", 100 * share); }

std::string quartile(const std::vector<int>& sorted, std::size_t quarters) {
  return std::to_string(sorted[(sorted.size() * quarters + 3) / 4 - 1]);
}

/// Checks the numbers of one reason; returns whether a purchase triggered it.
bool expect_true(const SlowEvidence& slow, const std::vector<std::string>& row, int as_of) {
  const std::string &customer = row[0], &product = row[1], &reason = row[2];
  static const std::regex kStep(
      "bought (P[0-9]+) (?:today|([0-9]+) days? ago); of ([0-9,]+) customers?(?: \\(kind: (even|odd)\\))? "
      "who had bought that "
      "([0-9]+)(?: to ([0-9]+) days|( days or more)) before and (nothing|had ordered) since, ([0-9.]+%) "
      "bought this within [0-9]+ days; usually ([0-9]+)(?: to ([0-9]+))? days? after(?:, mostly "
      "together with more of it)?");
  static const std::regex kPopular(
      "([0-9.]+%) of ([0-9,]+) customers?(?: \\(kind: (even|odd)\\))? who did not have it bought it within "
      "[0-9]+ "
      "days(?:, "
      "([0-9.]+) times the share of all customers)?; ordered (once|twice|([0-9]+) times), last "
      "(?:today|([0-9]+) "
      "days? ago)");
  static const std::regex kAgain(
      "bought it (once|twice|([0-9]+) times), last (?:today|([0-9]+) days? ago)(?:; of ([0-9,]+) customers? "
      "who had bought it ([0-9]+)(?: to ([0-9]+) days|( days or more)) before and (nothing|had ordered) "
      "since, "
      "([0-9.]+%) bought it again within [0-9]+ days)?(?:; usually ([0-9]+)(?: to ([0-9]+))? days? after)?");
  std::smatch part;
  if (std::regex_match(reason, part, kAgain)) {
    const std::vector<int>& days = slow.bought.at(customer).at(product);
    const std::size_t orders = part[1] == "once" ? 1U : part[1] == "twice" ? 2U : std::stoul(part[2]);
    EXPECT_EQ(orders, days.size()) << reason;
    EXPECT_EQ(part[3].length() > 0 ? std::stoi(part[3]) : 0, as_of - days.back()) << reason;
    if (part[4].length() > 0) {  // otherwise nobody was observed in this position
      const auto told =
          slow.seen(product, product, std::stoi(part[5]), part[6].length() > 0 ? std::stoi(part[6]) : INT_MAX,
                    part[8] == "had ordered", {});
      EXPECT_EQ(part[4].str(), with_thousands(static_cast<std::int64_t>(told.customers))) << reason;
      EXPECT_GT(told.customers, 0U) << reason;
      EXPECT_EQ(part[9].str(), told_share(told.rate)) << reason;
    }
    const std::vector<int> gaps = slow.gaps(product, product);
    EXPECT_EQ(part[10].length() > 0, !gaps.empty()) << reason;
    if (gaps.empty()) return false;
    EXPECT_EQ(part[10].str(), quartile(gaps, 1)) << reason;
    EXPECT_EQ(part[11].length() > 0 ? part[11].str() : part[10].str(), quartile(gaps, 3)) << reason;
    return false;
  }
  if (std::regex_match(reason, part, kStep)) {
    const std::string earlier = part[1].str();
    EXPECT_EQ(part[2].length() > 0 ? std::stoi(part[2]) : 0, as_of - *slow.last(customer, earlier, as_of))
        << reason;
    std::optional<int> kind;
    if (part[4].length() > 0) kind = part[4] == "odd" ? 1 : 0;
    const auto told =
        slow.seen(product, earlier, std::stoi(part[5]), part[6].length() > 0 ? std::stoi(part[6]) : INT_MAX,
                  part[8] == "had ordered", kind);
    EXPECT_EQ(part[3].str(), with_thousands(static_cast<std::int64_t>(told.customers))) << reason;
    EXPECT_EQ(part[9].str(), told_share(told.rate)) << reason;
    const std::vector<int> gaps = slow.gaps(product, earlier);
    EXPECT_EQ(part[10].str(), quartile(gaps, 1)) << reason;
    EXPECT_EQ(part[11].length() > 0 ? part[11].str() : part[10].str(), quartile(gaps, 3)) << reason;
    return true;
  }
  if (!std::regex_match(reason, part, kPopular)) {
    ADD_FAILURE() << "not understood: " << reason;
    return false;
  }
  std::optional<int> kind;
  if (part[3].length() > 0) kind = part[3] == "odd" ? 1 : 0;
  const auto told = slow.seen(product, "", 0, 0, false, kind), all = slow.seen(product, "", 0, 0, false, {});
  EXPECT_EQ(part[1].str(), told_share(told.rate)) << reason;
  EXPECT_EQ(part[2].str(), with_thousands(static_cast<std::int64_t>(told.customers))) << reason;
  if (kind) {
    EXPECT_EQ(part[4].str(), fmt::format("{:.1f}", told.rate / all.rate)) << reason;
  }
  std::set<int> days;  // the shop has one order a day
  for (const auto& [own, each] : slow.bought.at(customer)) days.insert(each.begin(), each.end());
  EXPECT_EQ(part[5] == "once"    ? 1
            : part[5] == "twice" ? 2
                                 : std::stoi(part[6]),
            static_cast<int>(days.size()))
      << reason;
  EXPECT_EQ(part[7].length() > 0 ? std::stoi(part[7]) : 0, as_of - *days.rbegin()) << reason;
  return false;
}

const int kLastDay = kFirstDay + kDays - 1;

/// With so many products that pairs are counted in several runs.
TEST(Offers, EveryNumberOfAThousandReasonsIsTrue) {
  constexpr int kRare = 1'500;
  MadeShop shop = make_shop(500, true, true, 3);
  const Sales often = shop.sales;
  for (int rare = 0; rare < kRare; ++rare) {
    shop.sales.push_back(often[static_cast<std::size_t>(rare) * often.size() / kRare]);
    shop.sales.back().product_id = fmt::format("R{}", rare);
  }
  const result::Result result = ask(
      "offers", {{"min-probability", "0"}, {"per-customer", "3"}, {"as-of", to_text(Date{kLastDay - 20})}},
      daybook_of(shop));
  expect_checks_hold(result);
  const Cells rows = columns_of(table(result, ""), {"customer_id", "product_id", "reason"});
  ASSERT_GT(rows.size(), 1'000U);
  const SlowEvidence slow(shop, kLastDay - 20, 90);
  int by_step = 0;
  for (std::size_t row = 0; row < 1'000; ++row)
    by_step += expect_true(slow, rows[row], kLastDay - 20) ? 1 : 0;
  EXPECT_GT(by_step, 30);
}

/// Hits and offers at 1, 3 and 5 of plans by probability, made as of each cut and compared with what was
/// bought then.
TEST(Offers, BacktestEqualsPlansComparedWithLaterSales) {
  const MadeShop shop = make_shop(300, true, true, 4);
  const daybook::Daybook daybook = daybook_of(shop);
  const result::Result test = ask("offers", {{"test", "60"}, {"folds", "2"}, {"per", "kind"}}, daybook);
  expect_checks_hold(test);
  std::map<int, std::array<int, 2>> counts;  // by depth
  const Bought all = bought_until(shop.sales, kLastDay);
  int last = 0;
  for (const Sale& sale : shop.sales) last = std::max(last, day_of(sale.date));
  for (int fold = 1; fold <= 2; ++fold) {
    const int cut = last - 60 * fold;
    const result::Result plan = ask("offers",
                                    {{"as-of", to_text(Date{cut})},
                                     {"horizon", "60"},
                                     {"per", "kind"},
                                     {"min-probability", "0"},
                                     {"per-customer", "5"},
                                     {"rank-by", "probability"}},
                                    daybook);
    for (const auto& row : columns_of(table(plan, ""), {"customer_id", "rank", "product_id"}))
      for (const int depth : {1, 3, 5}) {
        if (std::stoi(row[1]) > depth) continue;
        const auto& days = all.at(row[0]);
        const auto own = days.find(row[2]);
        const bool hit =
            own != days.end() && std::any_of(own->second.begin(), own->second.end(),
                                             [&](int day) { return day > cut && day <= cut + 60; });
        ++counts[depth][0];
        counts[depth][1] += hit ? 1 : 0;
      }
  }
  int seen = 0;
  for (const auto& row :
       columns_of(table(test, "test"), {"purchases", "method", "first", "offers", "hits"})) {
    if (row[0] != "both" || row[1] != "plan by probability") continue;
    ++seen;
    EXPECT_EQ(row[3], std::to_string(counts[std::stoi(row[2])][0])) << row[2];
    EXPECT_EQ(row[4], std::to_string(counts[std::stoi(row[2])][1])) << row[2];
  }
  EXPECT_EQ(seen, 3);
}

/// Each kind of purchase is scored on purchases of its own kind only, by plan and baselines alike: the most
/// frequent product of each customer, counted again here.
TEST(Offers, BacktestsRepurchasesSeparately) {
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

TEST(Offers, LaterSalesDoNotChangeThePlan) {
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

TEST(Offers, BeatBaselinesIfThereIsStructure) {
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
    EXPECT_NEAR(std::stod(row[2]), std::stod(row[3]), 0.03) << pairs;
  }
  EXPECT_GE(judged, 5);
  EXPECT_NEAR(stated / observed, 1, 0.1);
}

/// A shop that sells half as much except in the last quarter of each year: the probabilities stated before
/// the third such quarter match what is bought in it.
TEST(Offers, ProbabilitiesFollowTheSeason) {
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

TEST(Offers, ReportNoGainIfThereIsNoStructure) {
  const result::Result test = ask("offers", {{"test", "90"}}, daybook_of(make_shop(2'000, false, false, 7)));
  for (const auto& row : columns_of(table(test, "test"), {"method", "first", "plan_advantage_high"}))
    if (row[0] == "best sellers") {
      EXPECT_GE(std::stod(row[2]), 0) << row[1];
    }
  EXPECT_NE(test.headline[0].find("not significantly more than with best sellers ("), std::string::npos)
      << test.headline[0];
  EXPECT_TRUE(test.headline[0].ends_with("earlier purchases add no information.")) << test.headline[0];
}

TEST(Offers, ChooseTheMostInformativeGroups) {
  const auto note = [](const MadeShop& shop) { return ask("offers", {}, daybook_of(shop)).notes.front(); };
  EXPECT_NE(note(make_shop(200, false, true, 8)).find("groups by kind, the most informative column"),
            std::string::npos);
  EXPECT_NE(note(make_shop(200, false, false, 8)).find("all customers are one group"), std::string::npos);
}

/// Bounds of all kinds hold on shops of any kind, and any number of threads gives the same.
RC_GTEST_PROP(Offers, StayWithinTheirBounds, ()) {
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
    RC_ASSERT(row[1] == "1" || std::stod(row[4]) <= last_value);
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
TEST(Offers, UpliftLeavesOutWhatCustomersBuyByThemselves) {
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
TEST(Offers, AControlGroupIsRandomAndDoesNotCount) {
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

TEST(Offers, ContributionsOfTheEvidenceAddUpToTheProbability) {
  const daybook::Daybook daybook = daybook_of(make_shop(300, true, true, 12));
  int offers = 0, with_steps = 0;
  for (int customer = 0; customer < 15; ++customer) {
    const auto result = try_to_ask("offers", {{"customer", fmt::format("C{}", customer)}}, daybook);
    if (!result) continue;  // who bought nothing
    std::map<std::string, double> sums;
    std::map<std::string, int> rows;
    for (const auto& row : columns_of(table(*result, "evidence"), {"product_id", "contribution"}))
      sums[row[0]] += std::stod(row[1]), ++rows[row[0]];
    for (const auto& row : columns_of(table(*result, ""), {"product_id", "probability"})) {
      EXPECT_NEAR(sums.at(row[0]), std::stod(row[1]), 1e-5) << customer << " " << row[0];
      ++offers, with_steps += rows.at(row[0]) > 1 ? 1 : 0;
    }
  }
  EXPECT_GT(offers, 50);
  EXPECT_GT(with_steps, 3);
}

TEST(Offers, ReportsMistakes) {
  const daybook::Daybook daybook = daybook_of(make_shop(60, true, true, 9));
  const auto error = [&](const analysis::OptionValues& options) {
    return try_to_ask("offers", options, daybook).error().message;
  };
  EXPECT_EQ(error({{"folds", "2"}}), "--folds needs --test DAYS.");
  EXPECT_EQ(error({{"test", "90"}, {"horizon", "30"}}),
            "--test 90 holds out as many days as the plan covers; leave out --horizon 30.");
  EXPECT_EQ(error({{"test", "90"}, {"budget", "3"}}),
            "--test scores the first 1, 3 and 5 offers to every active customer; leave out --stock, "
            "--budget, --control, --customer and --min-probability.");
  EXPECT_EQ(error({{"customer", "C1"}, {"budget", "3"}}),
            "--customer shows the offers to one customer without regard to the others; leave out --stock, "
            "--budget and --control.");
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

TEST(Offers, CalibrationTitleReportsTotalsAndTheWorstThird) {
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
