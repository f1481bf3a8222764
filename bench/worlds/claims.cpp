#include "worlds/claims.hpp"

#include <algorithm>
#include <numeric>
#include <set>
#include <utility>

#include <absl/strings/str_split.h>

#include "worlds/asking.hpp"

namespace pear::worlds {
namespace {

using Pair = std::pair<std::string, std::string>;

/// Rows with a value of at most this in a column.
std::vector<bool> at_most(const result::Table& table, std::string_view column, double most) {
  std::vector<bool> rows;
  for (const double value : numbers(table, column)) rows.push_back(value <= most);
  return rows;
}

/// Whether two products are bought by the same customers or at the same times.
bool have_common_cause(const World& world, const std::string& a, const std::string& b) {
  const auto first = world.common_cause.find(a), second = world.common_cause.find(b);
  return first != world.common_cause.end() && second != world.common_cause.end() &&
         first->second == second->second;
}

ClaimCount compare(std::string claim, const std::set<Pair>& claims, const std::vector<Pair>& planted) {
  ClaimCount count{std::move(claim), 0, 0, static_cast<int>(planted.size())};
  for (const Pair& pair : planted) count.found += claims.contains(pair) ? 1 : 0;
  count.wrong = static_cast<int>(claims.size()) - count.found;
  return count;
}

std::set<Pair> claimed_pairs(const result::Table& table, const std::string& first, const std::string& second,
                             const std::vector<bool>& rows) {
  const std::vector<std::string> a = texts(table, first), b = texts(table, second);
  std::set<Pair> pairs;
  for (std::size_t row = 0; row < rows.size(); ++row)
    if (rows[row]) pairs.emplace(a[row], b[row]);
  return pairs;
}

/// A rule is right if its product was planted with one of those given, and neither right nor wrong if it has
/// a common cause with one of them.
ClaimCount compare_rules(const result::Table& rules, const World& world) {
  ClaimCount count{"rules"};
  const std::vector<std::string> given = texts(rules, "given"), also = texts(rules, "also");
  const std::vector<bool> rows = at_most(rules, "q_value", 0.05);
  for (std::size_t row = 0; row < rows.size(); ++row) {
    if (!rows[row]) continue;
    const auto is_given = [among = " + " + given[row] + " + "](const std::string& product) {
      return among.find(" + " + product + " + ") != std::string::npos;
    };
    const bool is_right = std::any_of(world.pairs.begin(), world.pairs.end(), [&](const Pair& pair) {
      return (pair.second == also[row] && is_given(pair.first)) ||
             (pair.first == also[row] && is_given(pair.second));
    });
    const bool is_open =
        std::any_of(world.common_cause.begin(), world.common_cause.end(), [&](const auto& product) {
          return is_given(product.first) && have_common_cause(world, product.first, also[row]);
        });
    if (is_open) continue;
    ++(is_right ? count.found : count.wrong);
  }
  return count;
}

void count_together(const World& world, ShopReport& report) {
  const result::Result result = ask("together", {}, world);
  const result::Table &pairs = table(result, ""), &rules = table(result, "rules");
  std::vector<bool> rows = at_most(pairs, "q_value", 0.05);
  const std::vector<double> lifts = numbers(pairs, "lift");
  for (std::size_t row = 0; row < rows.size(); ++row) rows[row] = rows[row] && lifts[row] > 1;
  std::set<Pair> claims = claimed_pairs(pairs, "product_a", "product_b", rows);
  std::erase_if(claims, [&](const Pair& pair) { return have_common_cause(world, pair.first, pair.second); });
  report.claims.push_back(compare("pairs", claims, world.pairs));
  report.claims.push_back(compare_rules(rules, world));
}

void count_sequence(const World& world, ShopReport& report) {
  const result::Result result = ask("sequence", {{"longest", "2"}}, world);
  const result::Table& next = table(result, "next");
  std::vector<bool> rows;
  for (const std::string& direction : texts(next, "direction")) rows.push_back(direction == "this way");
  report.claims.push_back(
      compare("directions", claimed_pairs(next, "earlier", "later", rows), world.sequels));
}

/// Whether a product belongs to a planted pair or sequence.
bool is_planted(const std::string& product, const World& world) {
  const auto contains = [&](const std::vector<Pair>& pairs) {
    return std::any_of(pairs.begin(), pairs.end(),
                       [&](const Pair& pair) { return pair.first == product || pair.second == product; });
  };
  return contains(world.pairs) || contains(world.sequels);
}

void count_baskets(const World& world, ShopReport& report) {
  const result::Result result = ask("baskets", {}, world);
  const result::Table& products = table(result, "products");
  const std::vector<std::string> ids = texts(products, "product_id"), q_values = texts(products, "q_value");
  const std::vector<double> low = numbers(products, "pull_low"), high = numbers(products, "pull_high");
  ClaimCount claims{"pulls", 0, 0, static_cast<int>(world.pulls.size())};
  Coverage coverage{"pull", {}, 0, 0};
  for (std::size_t row = 0; row < ids.size(); ++row) {
    if (q_values[row].empty()) continue;
    const auto planted = world.pulls.find(ids[row]);
    // These bring others, cheap or expensive ones.
    if (is_planted(ids[row], world) || world.common_cause.contains(ids[row])) continue;
    if (std::stod(q_values[row]) <= 0.05) ++(planted == world.pulls.end() ? claims.wrong : claims.found);
    if (planted == world.pulls.end() && !world.pulls.empty()) continue;  // bought with those that pull
    const double truth = planted == world.pulls.end() ? 0 : planted->second;
    coverage.intervals.emplace_back(low[row] - truth, high[row] - truth);
  }
  report.claims.push_back(claims);
  report.coverage.push_back(coverage);
}

/// Customers with a reason. It is right for those of `planted`; for others who pay less, it is neither. With
/// fewer than 3 orders, a customer's prices cannot be significant among those of 600 customers.
ClaimCount compare_reason(std::string claim, const result::Table& customers, std::string_view reason,
                          const std::set<std::string>& planted, const std::set<std::string>& others) {
  constexpr double kFewestOrders = 3;
  ClaimCount count{std::move(claim)};
  const std::vector<std::string> ids = texts(customers, "customer_id"), reasons = texts(customers, "reason");
  const std::vector<double> orders = numbers(customers, "compared_orders");
  for (std::size_t row = 0; row < ids.size(); ++row) {
    count.planted += planted.contains(ids[row]) && orders[row] >= kFewestOrders ? 1 : 0;
    if (reasons[row] != reason) continue;
    count.found += planted.contains(ids[row]) ? 1 : 0;
    count.wrong += planted.contains(ids[row]) || others.contains(ids[row]) ? 0 : 1;
  }
  return count;
}

void count_prices(const World& world, ShopReport& report) {
  const result::Result result = ask("prices", {}, world);
  const result::Table& customers = table(result, "customers");
  report.claims.push_back(
      compare_reason("unexplained prices", customers, "unexplained", world.negotiated, world.volume));
  report.claims.push_back(
      compare_reason("volume prices", customers, "volume", world.volume, world.negotiated));
}

/// A combination is right if it contains a planted pair, and neither right nor wrong if two of its products
/// have a common cause.
ClaimCount compare_bundles(const result::Table& bundles, const World& world) {
  ClaimCount count{"bundles", 0, 0, static_cast<int>(world.pairs.size())};
  for (const std::string& bundle : texts(bundles, "products")) {
    const std::vector<std::string> products = absl::StrSplit(bundle, " + ");
    bool is_right = false, is_open = false;
    for (const std::string& a : products) {
      for (const std::string& b : products) {
        if (a == b) continue;
        is_open = is_open || have_common_cause(world, a, b);
        is_right =
            is_right || std::find(world.pairs.begin(), world.pairs.end(), Pair(a, b)) != world.pairs.end();
      }
    }
    if (is_right || !is_open) ++(is_right ? count.found : count.wrong);
  }
  return count;
}

/// Offers triggered by the purchase of another product.
ClaimCount compare_steps(const result::Table& offers, const World& world) {
  const std::vector<std::string> triggers = texts(offers, "triggered_by"),
                                 products = texts(offers, "product_id");
  std::set<Pair> steps;
  for (std::size_t row = 0; row < products.size(); ++row)
    if (!triggers[row].empty() && triggers[row] != products[row] &&
        !have_common_cause(world, triggers[row], products[row]))
      steps.emplace(triggers[row], products[row]);
  return compare("steps", steps, world.sequels);
}

void count_offers(const World& world, ShopReport& report) {
  if (!has_room_for_backtest(world)) return;
  const result::Result plan = ask("offers", {}, world);
  report.claims.push_back(compare_bundles(table(plan, "bundles"), world));
  report.claims.push_back(compare_steps(table(plan, ""), world));
}

void backtest(const World& world, ShopReport& report) {
  if (has_room_for_backtest(world)) report.backtests = backtest_offers(world);
}

/// Customers called new, compared with those whose first order is within the data.
ClaimCount compare_new_customers(const result::Table& customers, const World& world) {
  ClaimCount count{"new customers", 0, 0, static_cast<int>(world.new_customers.size())};
  const std::vector<std::string> ids = texts(customers, "customer_id"), are_new = texts(customers, "is_new");
  for (std::size_t row = 0; row < ids.size(); ++row)
    if (are_new[row] == "yes") ++(world.new_customers.contains(ids[row]) ? count.found : count.wrong);
  return count;
}

/// No product makes customers order again more often: the true repeat rate is that of all.
void count_first(const World& world, ShopReport& report) {
  const result::Result result = ask("first", {}, world);
  report.claims.push_back(compare_new_customers(table(result, ""), world));
  ClaimCount claims{"entry products"};
  Coverage coverage{"repeat rate", {}, 0, 0};
  if (result.tables.size() >= 2) {
    const result::Table& entries = table(result, "entry");
    const std::vector<std::string> q_values = texts(entries, "q_value");
    const std::vector<double> low = numbers(entries, "repeat_rate_low"),
                              high = numbers(entries, "repeat_rate_high"),
                              followed = numbers(entries, "followed"),
                              again = numbers(entries, "ordered_again");
    coverage.trials = std::accumulate(followed.begin(), followed.end(), 0.0);
    coverage.successes = std::accumulate(again.begin(), again.end(), 0.0);
    for (std::size_t row = 0; row < q_values.size(); ++row) {
      if (q_values[row].empty()) continue;
      claims.wrong += std::stod(q_values[row]) <= 0.05 ? 1 : 0;
      coverage.intervals.emplace_back(low[row], high[row]);
    }
  }
  report.claims.push_back(claims);
  report.coverage.push_back(coverage);
}

}  // namespace

ShopReport compare_with_truth(const World& world, std::string_view question, Backtest with) {
  using Compare = void (*)(const World& world, ShopReport& report);
  std::vector<std::pair<std::string_view, Compare>> all = {
      {"together", count_together}, {"sequence", count_sequence}, {"baskets", count_baskets},
      {"prices", count_prices},     {"first", count_first},       {"offers", count_offers}};
  if (with == Backtest::yes) all.push_back({"offers", backtest});
  ShopReport report;
  for (const auto& [name, compare] : all)
    if (question.empty() || question == name) compare(world, report);
  return report;
}

}  // namespace pear::worlds
