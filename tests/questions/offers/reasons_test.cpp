// Every number of the reasons compared with the sales.
#include <climits>
#include <map>
#include <optional>
#include <regex>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "base/text.hpp"
#include "questions/offers/made_shop.hpp"

namespace pear::test {
namespace {

/// Purchases of customers as they were on earlier days, by hand.
struct SlowEvidence {
  Bought bought;
  std::vector<int> landmarks;
  int horizon;
  const MadeShop& shop;
  std::vector<std::string> everyone;                          ///< all customers
  std::map<std::string, std::vector<std::string>> buyers_of;  ///< by product

  SlowEvidence(const MadeShop& made, int as_of, int days)
      : bought(bought_until(made.sales, as_of)), horizon(days), shop(made) {
    int first = INT_MAX;
    for (const Sale& sale : made.sales) first = std::min(first, day_of(sale.date));
    for (int day = as_of - days; day >= first + 60 && as_of - day <= 780; day -= (days + 2) / 3)
      landmarks.push_back(day);
    for (const auto& [customer, products] : bought) {
      everyone.push_back(customer);
      for (const auto& [product, each] : products) buyers_of[product].push_back(customer);
    }
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
    const auto& products = bought.at(customer);
    const auto only = products.find(product);
    if (!product.empty() && only == products.end()) return found;
    for (auto own = product.empty() ? products.begin() : only; own != products.end(); ++own) {
      for (const int each : own->second)
        if (each <= day && (!found || each > *found)) found = each;
      if (!product.empty()) break;
    }
    return found;
  }

  mutable std::map<std::pair<std::string, int>, std::optional<int>> last_of_any;
  /// The last day of any product, computed once.
  [[nodiscard]] std::optional<int> last_at(const std::string& customer, int day) const {
    const auto [place, is_new] = last_of_any.try_emplace({customer, day});
    if (is_new) place->second = last(customer, "", day);
    return place->second;
  }

  struct Told {
    std::size_t customers = 0;
    double rate = 0;
  };
  mutable std::map<std::tuple<std::string, std::string, int, std::optional<bool>, int>, Told> told_before;
  /// Active customers without the product (or with it, if it is the earlier one) who had bought the earlier
  /// one this many days before, if there is one, and ordered since or not, if that matters.
  [[nodiscard]] Told seen(const std::string& product, const std::string& earlier, int low, int high,
                          std::optional<bool> since, std::optional<int> kind) const {
    const auto [place, is_new] = told_before.try_emplace({product, earlier, low, since, kind.value_or(-1)});
    if (is_new) place->second = count(product, earlier, low, high, since, kind);
    return place->second;
  }
  [[nodiscard]] Told count(const std::string& product, const std::string& earlier, int low, int high,
                           std::optional<bool> since, std::optional<int> kind) const {
    std::set<std::string> customers;
    int cases = 0, buyers = 0;
    const std::vector<std::string>& candidates = earlier.empty() ? everyone : buyers_of.at(earlier);
    for (const int landmark : landmarks)
      for (const std::string& customer : candidates) {
        if (kind && shop.kinds[static_cast<std::size_t>(std::stoi(customer.substr(1)))] != *kind) continue;
        const auto active = last_at(customer, landmark);
        if (!active || landmark - *active >= 365) continue;
        if (product != earlier && last(customer, product, landmark)) continue;
        if (!earlier.empty()) {
          const auto before = last(customer, earlier, landmark);
          if (!before || landmark - *before < low || landmark - *before > high) continue;
          if (since && (*active > *before) != *since) continue;
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

/// What a reason is about.
enum class Reason { again, step, similar, popular, unknown };

/// Checks the numbers of one reason.
Reason expect_true(const SlowEvidence& slow, const std::vector<std::string>& row, int as_of) {
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
      "bought it (once|twice|([0-9]+) times)(?:, ([0-9]+) days? apart|, every ([0-9]+) days? on average)?, "
      "last (?:today|([0-9]+) days? ago)(?:; of ([0-9,]+) customers? "
      "who had bought it ([0-9]+)(?: to ([0-9]+) days|( days or more)) before and (nothing|had ordered) "
      "since, "
      "([0-9.]+%) bought it again within [0-9]+ days)?(?:; usually ([0-9]+)(?: to ([0-9]+))? days? after)?");
  static const std::regex kSimilar(
      "bought ([PR][0-9]+) (?:today|([0-9]+) days? ago); of ([0-9,]+) customers? who had bought that and not "
      "this, "
      "([0-9.]+%) bought this within [0-9]+ days, ([0-9.]+) times the share of all customers");
  std::smatch part;
  if (std::regex_match(reason, part, kAgain)) {
    const std::vector<int>& days = slow.bought.at(customer).at(product);
    const int orders = part[1] == "once" ? 1 : part[1] == "twice" ? 2 : std::stoi(part[2]);
    EXPECT_EQ(orders, static_cast<int>(days.size())) << reason;
    const int apart = days.back() - days.front();
    EXPECT_EQ(part[3].length() > 0, orders == 2 && apart > 0) << reason;
    EXPECT_EQ(part[4].length() > 0, orders > 2 && apart > 0) << reason;
    if (part[3].length() > 0) {
      EXPECT_EQ(std::stoi(part[3]), apart) << reason;
    }
    if (part[4].length() > 0) {
      EXPECT_NEAR(std::stoi(part[4]), 1.0 * apart / (orders - 1), 0.5) << reason;
    }
    EXPECT_EQ(part[5].length() > 0 ? std::stoi(part[5]) : 0, as_of - days.back()) << reason;
    if (part[6].length() > 0) {  // otherwise hardly anybody was observed in this position
      const auto told =
          slow.seen(product, product, std::stoi(part[7]), part[8].length() > 0 ? std::stoi(part[8]) : INT_MAX,
                    part[10] == "had ordered", {});
      EXPECT_EQ(part[6].str(), with_thousands(static_cast<std::int64_t>(told.customers))) << reason;
      EXPECT_GE(told.customers, 20U) << reason;
      EXPECT_EQ(part[11].str(), told_share(told.rate)) << reason;
    }
    const std::vector<int> gaps = slow.gaps(product, product);
    EXPECT_EQ(part[12].length() > 0, !gaps.empty()) << reason;
    if (gaps.empty()) return Reason::again;
    EXPECT_EQ(part[12].str(), quartile(gaps, 1)) << reason;
    EXPECT_EQ(part[13].length() > 0 ? part[13].str() : part[12].str(), quartile(gaps, 3)) << reason;
    return Reason::again;
  }
  if (std::regex_match(reason, part, kSimilar)) {
    const std::string earlier = part[1].str();
    EXPECT_EQ(part[2].length() > 0 ? std::stoi(part[2]) : 0, as_of - *slow.last(customer, earlier, as_of))
        << reason;
    const auto told = slow.seen(product, earlier, 0, INT_MAX, {}, {});
    EXPECT_EQ(part[3].str(), with_thousands(static_cast<std::int64_t>(told.customers))) << reason;
    EXPECT_EQ(part[4].str(), told_share(told.rate)) << reason;
    EXPECT_EQ(part[5].str(), fmt::format("{:.1f}", told.rate / slow.seen(product, "", 0, 0, {}, {}).rate))
        << reason;
    EXPECT_GT(told.rate, slow.seen(product, "", 0, 0, {}, {}).rate) << reason;
    return Reason::similar;
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
    return Reason::step;
  }
  if (!std::regex_match(reason, part, kPopular)) {
    ADD_FAILURE() << "not understood: " << reason;
    return Reason::unknown;
  }
  std::optional<int> kind;
  if (part[3].length() > 0) kind = part[3] == "odd" ? 1 : 0;
  const auto told = slow.seen(product, "", 0, 0, {}, kind), all = slow.seen(product, "", 0, 0, {}, {});
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
  return Reason::popular;
}

/// The offers, with their reasons.
Cells offers_of(const daybook::Daybook& daybook) {
  const result::Result result = ask(
      "offers", {{"min-probability", "0"}, {"per-customer", "3"}, {"as-of", to_text(Date{kLastDay - 20})}},
      daybook);
  expect_checks_hold(result);
  return columns_of(table(result, ""), {"customer_id", "product_id", "reason"});
}

/// The number of reasons of each kind among the first rows.
std::map<Reason, int> expect_true(const MadeShop& shop, const Cells& rows, std::size_t most) {
  const SlowEvidence slow(shop, kLastDay - 20, 90);
  std::map<Reason, int> kinds;
  for (std::size_t row = 0; row < std::min(most, rows.size()); ++row)
    ++kinds[expect_true(slow, rows[row], kLastDay - 20)];
  return kinds;
}

/// With so many products that pairs are counted in several runs.
TEST(OfferReasons, EveryNumberOfAThousandIsTrue) {
  constexpr int kRare = 400;
  MadeShop shop = make_shop(500, true, true, 3);
  const Sales often = shop.sales;
  for (int rare = 0; rare < kRare; ++rare) {
    shop.sales.push_back(often[static_cast<std::size_t>(rare) * often.size() / kRare]);
    shop.sales.back().product_id = fmt::format("R{}", rare);
  }
  const Cells rows = offers_of(daybook_of(shop));
  EXPECT_GE(rows.size(), 1'000U);
  auto kinds = expect_true(shop, rows, 1'000);
  EXPECT_GT(kinds[Reason::step], 30);
  EXPECT_GT(kinds[Reason::again], 100);
  EXPECT_GT(kinds[Reason::popular], 30);
}

/// Where no column says who likes what, similar customers do.
TEST(OfferReasons, NameSimilarCustomersWhereKindsAreHidden) {
  const MadeShop shop = make_shop(600, false, true, 4);
  Cells rows = offers_of(build(shop.sales).daybook);
  std::stable_partition(rows.begin(), rows.end(),
                        [](const auto& row) { return row[2].find("and not this") != std::string::npos; });
  EXPECT_GT(expect_true(shop, rows, 100)[Reason::similar], 30);
}

}  // namespace
}  // namespace pear::test
