// Sequences compared with every way through every history, the papers' examples and shuffled shops.
#include <cmath>
#include <map>
#include <optional>
#include <random>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/natural_order.hpp"
#include "questions/sequence/slow_directions.hpp"
#include "statistics/significance.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"

namespace pear::test {
namespace {

using Steps = std::vector<Step>;

struct StepsLess {
  bool operator()(const Steps& a, const Steps& b) const {
    return std::lexicographical_compare(
        a.begin(), a.end(), b.begin(), b.end(), [](const Step& x, const Step& y) {
          return std::lexicographical_compare(x.begin(), x.end(), y.begin(), y.end(), NaturalLess{});
        });
  }
};

struct WantedSequences {
  std::string repeats = "first", column = "product_id";
  int min_gap = 1, max_gap = 100'000, span = 100'000;
  bool sets = false;
  int support = 1, longest = 3;
  std::string only;

  [[nodiscard]] bool follows(int days) const { return days >= min_gap && days <= std::min(max_gap, span); }
  [[nodiscard]] analysis::OptionValues options() const {
    analysis::OptionValues values = {{"repeats", repeats},
                                     {"count", column},
                                     {"min-gap", std::to_string(min_gap)},
                                     {"max-gap", std::to_string(max_gap)},
                                     {"span", std::to_string(span)},
                                     {"support", fmt::format("{} customers", support)},
                                     {"longest", std::to_string(longest)}};
    if (sets) values.emplace_back("sets", "");
    if (!only.empty()) values.emplace_back("condense", only);
    return values;
  }
};

std::vector<History> histories_of(const daybook::Daybook& daybook, const WantedSequences& wanted) {
  std::vector<History> histories;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    History history;
    Step bought;
    for (std::uint32_t order = daybook.orders_of(customer).begin; order < daybook.orders_of(customer).end;
         ++order) {
      Visit visit{daybook.date_of_order(order).days, {}};
      for (std::uint32_t line = daybook.lines_of(order).begin; line < daybook.lines_of(order).end; ++line) {
        const std::uint32_t product = daybook.line_products()[line];
        const std::string item = wanted.column == "product_id"
                                     ? std::string(daybook.product_ids()[product])
                                     : daybook::value_text(daybook.find(wanted.column)->values, product);
        if (daybook.return_flags()[line] == 0 && !item.empty()) visit.items.insert(item);
      }
      if (!visit.items.empty()) history.push_back(visit);
    }
    if (!history.empty()) histories.push_back(history);
  }
  return histories;
}

/// The purchases that count.
History counted_of(History history, const WantedSequences& wanted) {
  if (wanted.repeats != "first") return history;
  Step bought;
  for (Visit& visit : history) {
    Step fresh;
    for (const std::string& item : visit.items)
      if (bought.insert(item).second) fresh.insert(item);
    visit.items = fresh;
  }
  return history;
}

std::vector<Step> steps_within(const Step& items, bool sets) {
  const std::vector<std::string> all(items.begin(), items.end());
  std::vector<Step> steps;
  for (unsigned part = 1; part < (1U << all.size()); ++part) {
    Step step;
    for (std::size_t i = 0; i < all.size(); ++i)
      if ((part >> i & 1U) != 0) step.insert(all[i]);
    if (sets || step.size() == 1) steps.push_back(step);
  }
  return steps;
}

/// Every sequence of one customer, with the days of the first way through it.
using Ways = std::map<Steps, std::vector<int>, StepsLess>;

void walk(const History& history, const WantedSequences& wanted, int longest, std::size_t from, Steps& steps,
          std::vector<int>& days, Ways& ways) {
  for (std::size_t at = from; at < history.size(); ++at) {
    if (!days.empty() &&
        (!wanted.follows(history[at].day - days.back()) || history[at].day - days.front() > wanted.span))
      continue;
    for (const Step& step : steps_within(history[at].items, wanted.sets)) {
      if (wanted.repeats == "only" && !steps.empty() && step != steps.front()) continue;
      steps.push_back(step);
      days.push_back(history[at].day);
      const auto [found, is_new] = ways.try_emplace(steps, days);
      if (!is_new) found->second = std::min(found->second, days);
      if (static_cast<int>(steps.size()) < longest) walk(history, wanted, longest, at + 1, steps, days, ways);
      steps.pop_back();
      days.pop_back();
    }
  }
}

struct Seen {
  std::vector<int> last_days, all_days;
  [[nodiscard]] int customers() const { return static_cast<int>(all_days.size()); }
};
using AllSeen = std::map<Steps, Seen, StepsLess>;

int quantile(std::vector<int> values, double part) {
  std::sort(values.begin(), values.end());
  return values[static_cast<std::size_t>(
      std::max(0.0, std::ceil(part * static_cast<double>(values.size())) - 1))];
}

std::string told(const Steps& steps) {
  std::string text;
  for (const Step& step : steps) {
    text += text.empty() ? "" : " > ";
    for (const std::string& item : step) text += (item == *step.begin() ? "" : " + ") + item;
  }
  return text;
}

bool contains(const Steps& longer, const Steps& shorter) {
  std::size_t next = 0;
  for (const Step& step : longer)
    if (next < shorter.size() &&
        std::includes(step.begin(), step.end(), shorter[next].begin(), shorter[next].end(), NaturalLess{}))
      ++next;
  return next == shorter.size();
}

/// A row for each sequence, in order of its text.
Cells slow_sequences(const std::vector<History>& histories, const WantedSequences& wanted) {
  AllSeen seen;
  const int longest = wanted.longest + (wanted.only.empty() ? 0 : 1);
  for (const History& history : histories) {
    Ways ways;
    Steps steps;
    std::vector<int> days;
    walk(counted_of(history, wanted), wanted, longest, 0, steps, days, ways);
    for (const auto& [way, way_days] : ways) {
      const std::size_t last = way_days.size() - 1;
      seen[way].last_days.push_back(last > 0 ? way_days[last] - way_days[last - 1] : 0);
      seen[way].all_days.push_back(way_days[last] - way_days[0]);
    }
  }
  std::erase_if(seen, [&](const auto& each) { return each.second.customers() < wanted.support; });
  Cells rows;
  for (const auto& [steps, facts] : seen) {
    if (steps.size() < 2 || static_cast<int>(steps.size()) > wanted.longest) continue;
    const bool kept = wanted.only.empty() || std::none_of(seen.begin(), seen.end(), [&](const auto& other) {
                        return other.first != steps && contains(other.first, steps) &&
                               (wanted.only == "maximal" || other.second.customers() >= facts.customers());
                      });
    if (!kept) continue;
    const Steps given(steps.begin(), steps.end() - 1);
    rows.push_back({told(steps), std::to_string(steps.size()), std::to_string(facts.customers()),
                    fmt::format("{:.6f}", 1.0 * facts.customers() / static_cast<double>(histories.size())),
                    fmt::format("{:.6f}", 1.0 * facts.customers() / seen.at(given).customers()),
                    std::to_string(quantile(facts.last_days, 0.5)),
                    std::to_string(quantile(facts.all_days, 0.5))});
  }
  std::sort(rows.begin(), rows.end());
  return rows;
}

WantedSequences random_wish() {
  WantedSequences wanted;
  wanted.repeats = *rc::gen::element<std::string>("first", "all", "only");
  wanted.column = *rc::gen::element<std::string>("product_id", "category");
  wanted.min_gap = *rc::gen::element(1, 1, 8);
  wanted.max_gap = *rc::gen::element(100'000, 20, 60);
  wanted.span = *rc::gen::element(100'000, 30, 90);
  wanted.sets = wanted.repeats != "only" && pick(0, 2) == 0;
  wanted.support = pick(1, 3);
  wanted.longest = wanted.sets ? 2 : pick(2, 4);
  wanted.only = *rc::gen::element<std::string>("", "closed", "maximal");
  return wanted;
}

/// Whether any order follows another, so that there is a sequence.
bool any_step(const std::vector<History>& histories, const WantedSequences& wanted) {
  for (const History& history : histories)
    for (const Visit& later : counted_of(history, wanted))
      for (const Visit& earlier : history)
        if (!later.items.empty() && wanted.follows(later.day - earlier.day)) return true;
  return false;
}

RC_GTEST_PROP(Sequence, EqualsEveryWayThroughEveryHistory, ()) {
  const daybook::Daybook daybook = random_daybook();
  const WantedSequences wanted = random_wish();
  const std::vector<History> histories = histories_of(daybook, wanted);
  const auto result = try_to_ask("sequence", wanted.options(), daybook);
  RC_ASSERT(result.has_value() == any_step(histories, wanted));
  if (!result) return;
  Cells rows = columns_of(table(*result, ""), {"steps", "length", "customers", "support",
                                               "rate_given_previous", "days_median", "days_total_median"});
  std::sort(rows.begin(), rows.end());
  RC_ASSERT(rows == slow_sequences(histories, wanted));
  expect_checks_hold(*result);
}

/// What one customer did with two items.
struct PairSeen {
  std::optional<int>
      days;  ///< from the first purchase of the earlier one that has the later one within the gaps
  bool reverse = false;
  int followed = 0;  ///< days from the first purchase of the earlier one
};

std::optional<int> first_gap(const History& history, const WantedSequences& wanted,
                             const std::string& earlier, const std::string& later) {
  for (const Visit& first : history)
    for (const Visit& second : history)
      if (first.items.contains(earlier) && second.items.contains(later) &&
          wanted.follows(second.day - first.day))
        return second.day - first.day;
  return {};
}

/// The share of all who have bought within this many days, by the definition of the estimate: 1 minus the
/// product, over all days with a purchase, of the share of those at risk who did not buy.
std::string slow_rate(const std::vector<PairSeen>& seen, int within) {
  double left = 1;
  for (int day = 0; day <= within; ++day) {
    double at_risk = 0, bought = 0;
    for (const PairSeen& each : seen) {
      at_risk += each.days.value_or(each.followed) >= day ? 1 : 0;
      bought += each.days == day ? 1 : 0;
    }
    if (at_risk == 0 && left > 1e-12) return "";
    if (bought > 0) left *= 1 - bought / at_risk;
  }
  return fmt::format("{:.6f}", 1 - left);
}

std::string in_units(double value) {
  return Decimal::from_units(std::llround(value * Decimal::kScale)).to_text();
}

struct SlowPairs {
  Cells rows;  ///< in order of their texts
  std::map<std::pair<std::string, std::string>, SlowDirection> one_way;
};

SlowPairs slow_pairs(const std::vector<History>& whole, const WantedSequences& wanted, int data_end) {
  std::vector<History> histories;
  Step items;
  double all_days = 0;
  for (const History& history : whole) {
    histories.push_back(counted_of(history, wanted));
    for (const Visit& visit : history) items.insert(visit.items.begin(), visit.items.end());
    all_days += data_end - history.front().day;
  }
  SlowPairs slow{{}, slow_directions(whole)};
  for (const std::string& earlier : items) {
    for (const std::string& later : items) {
      if (wanted.repeats == "only" && earlier != later) continue;
      std::vector<PairSeen> seen;
      std::vector<int> days;
      int reverse = 0, after_any = 0, after_first = 0;
      for (std::size_t c = 0; c < histories.size(); ++c) {
        bool follows = false, later_day = false;
        for (const Visit& visit : histories[c]) {
          if (!visit.items.contains(later)) continue;
          later_day = later_day || visit.day > whole[c].front().day;
          for (const Visit& any : whole[c]) follows = follows || wanted.follows(visit.day - any.day);
        }
        after_any += follows ? 1 : 0;
        after_first += later_day ? 1 : 0;
        for (const Visit& visit : histories[c]) {
          if (!visit.items.contains(earlier)) continue;
          seen.push_back({first_gap(histories[c], wanted, earlier, later),
                          first_gap(histories[c], wanted, later, earlier).has_value(), data_end - visit.day});
          break;
        }
        if (seen.empty()) continue;
      }
      for (const PairSeen& each : seen) {
        if (each.days) days.push_back(*each.days);
        reverse += each.reverse ? 1 : 0;
      }
      const auto both = static_cast<int>(days.size());
      if (both < wanted.support) continue;
      const int p25 = quantile(days, 0.25), p75 = quantile(days, 0.75);
      double inside = 0, days_then = 0;
      for (const PairSeen& each : seen) {
        inside += each.days && *each.days >= p25 && *each.days <= p75 ? 1 : 0;
        days_then += std::max(0, std::min(each.followed, p75) - p25 + 1);
      }
      const double rate = 1.0 * both / static_cast<double>(seen.size());
      const double base = 1.0 * after_any / static_cast<double>(histories.size());
      slow.rows.push_back({earlier, later, std::to_string(seen.size()), std::to_string(both),
                           fmt::format("{:.6f}", rate), fmt::format("{:.6f}", base), in_units(rate / base),
                           std::to_string(p25), std::to_string(quantile(days, 0.5)), std::to_string(p75),
                           in_units(inside / days_then / (after_first / all_days)), slow_rate(seen, 30),
                           slow_rate(seen, 90), slow_rate(seen, 180)});
      if (wanted.repeats != "only")
        slow.rows.back().push_back(earlier == later ? "" : std::to_string(reverse));
    }
  }
  std::sort(slow.rows.begin(), slow.rows.end());
  return slow;
}

RC_GTEST_PROP(Sequence, PairsEqualTheirDefinitions, ()) {
  const daybook::Daybook daybook = random_daybook();
  WantedSequences wanted = random_wish();
  wanted.sets = false;
  const auto result = try_to_ask("sequence", wanted.options(), daybook);
  if (!result) return;
  int data_end = 0;
  for (const std::int32_t day : daybook.order_days()) data_end = std::max(data_end, day);
  const SlowPairs slow = slow_pairs(histories_of(daybook, wanted), wanted, data_end);
  std::vector<std::string> names = {
      "earlier",  "later",       "customers_earlier", "customers_both", "rate",    "base_rate", "lift",
      "days_p25", "days_median", "days_p75",          "rate_ratio",     "rate_30", "rate_90",   "rate_180"};
  if (wanted.repeats != "only") names.emplace_back("reverse_customers");
  const result::Table& next = table(*result, "next");
  Cells rows = columns_of(next, names);
  std::sort(rows.begin(), rows.end());
  RC_ASSERT(rows == slow.rows);
  if (wanted.repeats == "only") return;
  std::vector<double> p_values;
  std::map<std::pair<std::string, std::string>, std::size_t> tested;
  for (const auto& [pair, forth] : slow.one_way) {
    const SlowDirection& back = slow.one_way.at({pair.second, pair.first});
    if (!NaturalLess{}(pair.first, pair.second) || forth.customers + back.customers < wanted.support)
      continue;
    tested[pair] = p_values.size();
    const auto all = static_cast<std::uint64_t>(forth.customers + back.customers);
    const double rate = (forth.expected + back.customers - back.expected) / static_cast<double>(all);
    const auto tail = [&](int customers, double probability) {
      return statistics::probability_of_at_least(static_cast<std::uint64_t>(customers), all, probability);
    };
    p_values.push_back(
        std::min(1.0, 2 * std::min(tail(forth.customers, rate), tail(back.customers, 1 - rate))));
  }
  const std::vector<double> q = statistics::q_values(p_values, p_values.size());
  for (const auto& row : columns_of(next, {"earlier", "later", "p_value", "q_value", "direction",
                                           "customers_one_way", "customers_other_way"})) {
    if (row[0] == row[1]) {
      RC_ASSERT(row[2].empty() && row[3].empty() && row[4].empty());
      continue;
    }
    const bool forth = NaturalLess{}(row[0], row[1]);
    const auto found = tested.find(forth ? std::pair(row[0], row[1]) : std::pair(row[1], row[0]));
    const double p = found == tested.end() ? 1 : p_values[found->second],
                 q_value = found == tested.end() ? 1 : q[found->second];
    RC_ASSERT(std::abs(std::stod(row[2]) - p) <= 1e-4 * p);
    RC_ASSERT(std::abs(std::stod(row[3]) - q_value) <= 1e-4 * q_value);
    const SlowDirection &one = slow.one_way.at({row[0], row[1]}), &other = slow.one_way.at({row[1], row[0]});
    RC_ASSERT(row[5] == std::to_string(one.customers) && row[6] == std::to_string(other.customers));
    const double expected = one.expected + other.customers - other.expected;
    if (std::abs(q_value - 0.05) > 1e-3)
      RC_ASSERT(row[4] == (q_value > 0.05 ? "either" : one.customers > expected ? "this way" : "other way"));
  }
}

RC_GTEST_PROP(Sequence, PairsEqualSql, ()) {
  const daybook::Daybook daybook = random_daybook();
  const LinesInSql sql(daybook);
  const auto result = try_to_ask("sequence", {{"support", "1 customer"}}, daybook);
  if (!result) return;
  Cells theirs = sql.ask(
      "WITH bought AS (SELECT customer_id, product_id, min(julianday(order_date)) AS day FROM lines WHERE NOT"
      " is_return GROUP BY 1, 2), owners AS (SELECT product_id, count(*) AS customers FROM bought GROUP BY 1)"
      " SELECT x.product_id, y.product_id, owners.customers, count(*), share(count(*), owners.customers),"
      " CAST(min(y.day - x.day) AS INTEGER) FROM bought AS x JOIN bought AS y ON x.customer_id = "
      "y.customer_id"
      " AND x.day < y.day JOIN owners ON owners.product_id = x.product_id GROUP BY 1, 2");
  Cells ours =
      columns_of(table(*result, "next"), {"earlier", "later", "customers_earlier", "customers_both", "rate"});
  for (auto& row : theirs) row.pop_back();
  std::sort(theirs.begin(), theirs.end());
  std::sort(ours.begin(), ours.end());
  RC_ASSERT(ours == theirs);
}

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
