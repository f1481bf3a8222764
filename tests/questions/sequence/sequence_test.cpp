// Sequences and pairs compared with every way through every history, and with SQL.
#include <cmath>
#include <map>
#include <optional>
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
  for (const auto& found : seen) {
    const auto& steps = found.first;
    const auto& facts = found.second;
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

}  // namespace
}  // namespace pear::test
