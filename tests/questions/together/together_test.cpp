// Products bought together, compared with every subset of every basket, SQL, the papers' examples and
// shuffled shops.
#include <cmath>
#include <functional>
#include <map>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/find_member.hpp"
#include "analysis/tables/member_column.hpp"
#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "mining/basket_null_model.hpp"
#include "mining/frequent_itemsets.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

using Items = std::vector<std::string>;  // in natural order

struct ItemsLess {
  bool operator()(const Items& a, const Items& b) const {
    return std::lexicographical_compare(a.begin(), a.end(), b.begin(), b.end(), NaturalLess{});
  }
};
using Counts = std::map<Items, int, ItemsLess>;

/// Whether an order is one: those that contain only returns are not.
bool has_purchase(const daybook::Daybook& daybook, std::uint32_t order) {
  for (std::uint32_t line = daybook.lines_of(order).begin; line < daybook.lines_of(order).end; ++line)
    if (daybook.return_flags()[line] == 0) return true;
  return false;
}

/// How many baskets contain each of their subsets.
struct SlowBaskets {
  Counts counts;
  int baskets = 0;

  void add(const std::set<std::string, NaturalLess>& items) {
    if (items.empty()) return;
    ++baskets;
    const Items all(items.begin(), items.end());
    for (unsigned part = 1; part < (1U << all.size()); ++part) {
      Items some;
      for (std::size_t i = 0; i < all.size(); ++i)
        if ((part >> i & 1U) != 0) some.push_back(all[i]);
      ++counts[some];
    }
  }

  SlowBaskets(const daybook::Daybook& daybook, const std::string& within, const std::string& column) {
    for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
      std::set<std::string, NaturalLess> items;
      int last_day = 0;
      const daybook::Run orders = daybook.orders_of(customer);
      for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
        if (!has_purchase(daybook, order)) continue;
        const int day = daybook.date_of_order(order).days;
        const bool same = !items.empty() && (within == "customer" || (within == "day" && day == last_day) ||
                                             (within == "20 days" && day - last_day <= 20));
        if (!same) {
          add(items);
          items.clear();
        }
        last_day = day;
        for (std::uint32_t line = daybook.lines_of(order).begin; line < daybook.lines_of(order).end; ++line) {
          if (daybook.return_flags()[line] != 0) continue;
          const std::uint32_t product = daybook.line_products()[line];
          const std::string item = column == "product_id"
                                       ? std::string(daybook.product_ids()[product])
                                       : daybook::value_text(daybook.find(column)->values, product);
          if (!item.empty()) items.insert(item);
        }
      }
      add(items);
    }
  }

  [[nodiscard]] double share(const Items& items) const { return 1.0 * counts.at(items) / baskets; }
};

std::string joined(const Items& items) { return join(items, " + "); }

Items without(Items items, const std::string& one) {
  std::erase(items, one);
  return items;
}

/// Rows with q <= 0.05 and a lift above 1 come first; among them, and after them, the larger counts.
bool is_in_order(const result::Table& table, const std::string& count) {
  std::vector<std::pair<bool, int>> ranks;
  for (const auto& row : columns_of(table, {"q_value", "lift", count}))
    ranks.emplace_back(std::stod(row[0]) <= 0.05 && std::stod(row[1]) > 1, std::stoi(row[2]));
  return std::is_sorted(ranks.rbegin(), ranks.rend());
}

std::string share_text(double value) { return fmt::format("{:.6f}", value); }

struct WantedRules {
  int support = 1, largest = 5;
  double min_gain = 0;
  std::string only;
};

Cells slow_pairs(const SlowBaskets& slow, const WantedRules& wanted) {
  std::vector<std::pair<int, Items>> pairs;
  for (const auto& [items, count] : slow.counts)
    if (items.size() == 2 && count >= wanted.support) pairs.emplace_back(-count, items);
  std::stable_sort(pairs.begin(), pairs.end(),
                   [](const auto& a, const auto& b) { return a.first < b.first; });
  Cells rows;
  for (const auto& [count, items] : pairs) {
    const double both = -count, a = slow.counts.at({items[0]}), b = slow.counts.at({items[1]});
    rows.push_back({items[0], items[1], fmt::format("{}", both), fmt::format("{}", a), fmt::format("{}", b),
                    share_text(both / slow.baskets), share_text(both / a), share_text(both / b)});
  }
  return rows;
}

bool is_kept(const SlowBaskets& slow, const Items& items, int count, const WantedRules& wanted) {
  for (const auto& [larger, baskets] : slow.counts) {
    if (larger.size() <= items.size() || baskets < wanted.support) continue;
    if (!std::includes(larger.begin(), larger.end(), items.begin(), items.end(), NaturalLess{})) continue;
    if (wanted.only == "maximal" || (wanted.only == "closed" && baskets == count)) return false;
  }
  return true;
}

Cells slow_sets(const SlowBaskets& slow, const WantedRules& wanted) {
  std::vector<std::tuple<int, std::size_t, Items>> sets;
  for (const auto& [items, count] : slow.counts)
    if (items.size() >= 3 && items.size() <= static_cast<std::size_t>(wanted.largest) &&
        count >= wanted.support && (wanted.only.empty() || is_kept(slow, items, count, wanted)))
      sets.emplace_back(-count, items.size(), items);
  std::stable_sort(sets.begin(), sets.end(), [](const auto& a, const auto& b) {
    return std::tie(std::get<0>(a), std::get<1>(a)) < std::tie(std::get<0>(b), std::get<1>(b));
  });
  Cells rows;
  for (const auto& [count, size, items] : sets)
    rows.push_back(
        {joined(items), std::to_string(size), std::to_string(-count), share_text(slow.share(items))});
  return rows;
}

/// In any order: a rule and its baskets and confidence.
std::set<std::vector<std::string>> slow_rules(const SlowBaskets& slow, const WantedRules& wanted) {
  std::set<std::vector<std::string>> rules;
  for (const auto& [items, count] : slow.counts) {
    if (items.size() < 2 || items.size() > static_cast<std::size_t>(wanted.largest) || count < wanted.support)
      continue;
    for (const std::string& also : items) {
      const Items given = without(items, also);
      const double confidence = 1.0 * count / slow.counts.at(given);
      double best = slow.share({also});
      for (const auto& [shorter, baskets] : slow.counts) {
        if (shorter.size() >= given.size() ||
            !std::includes(given.begin(), given.end(), shorter.begin(), shorter.end(), NaturalLess{}))
          continue;
        Items whole = shorter;
        whole.push_back(also);
        std::sort(whole.begin(), whole.end(), NaturalLess{});
        best = std::max(best, 1.0 * slow.counts.at(whole) / baskets);
      }
      if (confidence >= best + wanted.min_gain - 1e-12)
        rules.insert({joined(given), also, std::to_string(count), share_text(confidence)});
    }
  }
  return rules;
}

RC_GTEST_PROP(Together, EqualsEverySubsetOfEveryBasket, ()) {
  const daybook::Daybook daybook = random_daybook();
  const std::string within = *rc::gen::element<std::string>("order", "day", "customer", "20 days");
  const std::string column = *rc::gen::element<std::string>("product_id", "category");
  const WantedRules wanted{pick(1, 4), pick(3, 5), pick(0, 2) * 0.1,
                           *rc::gen::element<std::string>("", "closed", "maximal")};
  analysis::OptionValues options = {{"basket", within},
                                    {"count", column},
                                    {"support", fmt::format("{} baskets", wanted.support)},
                                    {"largest", std::to_string(wanted.largest)},
                                    {"min-gain", fmt::format("{}", wanted.min_gain)}};
  if (!wanted.only.empty()) options.emplace_back("condense", wanted.only);
  const auto result = try_to_ask("together", options, daybook);
  const SlowBaskets slow(daybook, within, column);
  const bool any = std::any_of(slow.counts.begin(), slow.counts.end(),
                               [](const auto& each) { return each.first.size() == 2; });
  RC_ASSERT(result.has_value() == any);
  if (!any) return;
  const std::string item = column == "category" ? "category" : "product";
  RC_ASSERT(sorted(columns_of(table(*result, ""), {item + "_a", item + "_b", "both", "a", "b", "support",
                                                   "confidence_ab", "confidence_ba"})) ==
            sorted(slow_pairs(slow, wanted)));
  RC_ASSERT(is_in_order(table(*result, ""), "both"));
  RC_ASSERT(sorted(columns_of(table(*result, "sets"), {column == "category" ? "categories" : "products",
                                                       "size", "baskets", "support"})) ==
            sorted(slow_sets(slow, wanted)));
  RC_ASSERT(is_in_order(table(*result, "sets"), "baskets"));
  const Cells rules = columns_of(table(*result, "rules"), {"given", "also", "baskets", "confidence"});
  RC_ASSERT(std::set(rules.begin(), rules.end()) == slow_rules(slow, wanted));
  RC_ASSERT(rules.size() == slow_rules(slow, wanted).size());
  expect_checks_hold(*result);
}

RC_GTEST_PROP(Together, PairsAndAmountsEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook::completed(daybook, {"margin"}));
  const auto result = try_to_ask("together", {{"support", "1 baskets"}}, daybook);
  if (!result) return;
  Cells theirs = sql.ask(
      "WITH bought AS (SELECT customer_id, order_id, product_id, sum(amount_u) AS amount, "
      "coalesce(sum(margin_u), 0) AS"
      " margin FROM lines WHERE NOT is_return GROUP BY 1, 2, 3)"
      " SELECT x.product_id, y.product_id, count(*) AS both, sum(x.amount + y.amount), sum(x.margin + "
      "y.margin) FROM"
      " bought AS x JOIN bought AS y ON x.customer_id = y.customer_id AND x.order_id = y.order_id AND"
      " (length(x.product_id), x.product_id) < (length(y.product_id), y.product_id) GROUP BY 1, 2"
      " ORDER BY both DESC, length(x.product_id), x.product_id, length(y.product_id), y.product_id");
  // A shop without any known cost has no margins.
  std::vector<std::string> columns = {"product_a", "product_b", "both", "amount_together"};
  if (sql.ask("SELECT count(margin_u) FROM lines") != Cells{{"0"}}) columns.push_back("margin_together");
  for (auto& row : theirs) {
    row.resize(columns.size());
    for (std::size_t money = 3; money < row.size(); ++money)
      row[money] = Decimal::from_units(std::stoll(row[money])).to_text(2);
  }
  RC_ASSERT(sorted(columns_of(table(*result, ""), columns)) == sorted(theirs));
}

/// Pairs with the numbers of baskets of each customer, from the baskets themselves.
struct TestedPair {
  std::vector<std::uint32_t> codes;
  std::map<std::uint32_t, std::uint32_t> of_customers;
  double p = 1, q = 1;
};

std::map<std::vector<std::uint32_t>, TestedPair> pairs_of(const mining::Baskets& baskets,
                                                          std::uint32_t least) {
  std::map<std::vector<std::uint32_t>, TestedPair> pairs;
  for (std::size_t basket = 0; basket < baskets.size(); ++basket)
    for (const std::uint32_t a : baskets.of(basket))
      for (const std::uint32_t b : baskets.of(basket))
        if (a < b && baskets.counts[a] >= least && baskets.counts[b] >= least) {
          TestedPair& pair = pairs[{a, b}];
          pair.codes = {a, b};
          ++pair.of_customers[baskets.customers[basket]];
        }
  return pairs;
}

/// p values from the null model and the numbers of each customer; q values by their definition, over all
/// pairs of items with enough baskets, whether a pair reaches the support or not.
RC_GTEST_PROP(Together, PAndQValuesEqualTheirDefinitions, ()) {
  const daybook::Daybook daybook = random_daybook();
  const int support = pick(1, 3);
  const auto result = try_to_ask("together", {{"support", fmt::format("{} baskets", support)}}, daybook);
  if (!result) return;
  const expression::GroupKey key = analysis::id_key(daybook, daybook::Level::product);
  const mining::Baskets baskets = mining::gather_baskets(daybook, key, {});
  const mining::BasketNullModel model(baskets, true);
  auto pairs = pairs_of(baskets, static_cast<std::uint32_t>(support));
  for (auto& [codes, pair] : pairs) {
    double both = 0, squares = 0;
    for (const auto& [customer, count] : pair.of_customers) both += count, squares += count * count;
    const double a = baskets.counts[codes[0]], b = baskets.counts[codes[1]], expected = model.expected(codes);
    pair.p = statistics::probability_of_clustered(both, expected, expected * (1 - expected / std::min(a, b)),
                                                  squares / both);
  }
  const auto frequent = std::count_if(baskets.counts.begin(), baskets.counts.end(), [&](std::uint32_t count) {
    return count >= static_cast<std::uint32_t>(support);
  });
  const double tests = static_cast<double>(frequent * (frequent - 1)) / 2;
  const auto rate_at = [&](double p) {
    return p * tests / static_cast<double>(std::count_if(pairs.begin(), pairs.end(), [&](const auto& each) {
             return each.second.p <= p;
           }));
  };
  for (auto& [codes, pair] : pairs)
    for (const auto& [others, other] : pairs)
      if (other.p >= pair.p) pair.q = std::min(pair.q, rate_at(other.p));
  for (const auto& row : columns_of(table(*result, ""), {"product_a", "product_b", "p_value", "q_value"})) {
    const auto code = [&](const std::string& id) {
      return *analysis::find_one(daybook, daybook::Level::product, id);
    };
    const TestedPair& pair = pairs.at({code(row[0]), code(row[1])});
    RC_ASSERT(std::abs(std::stod(row[2]) - pair.p) <= 1e-5 * pair.p);
    RC_ASSERT(std::abs(std::stod(row[3]) - pair.q) <= 1e-5 * pair.q);
  }
}

}  // namespace
}  // namespace pear::test
