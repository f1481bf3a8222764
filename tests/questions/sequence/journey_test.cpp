// Journeys, by walking through every customer's days.
#include <algorithm>
#include <map>
#include <tuple>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "questions/sequence/slow_directions.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {
namespace {

/// The item of each step, and the days since the step before.
using Travel = std::vector<std::pair<std::string, int>>;

/// What is new on each day, named after the item with the largest amount.
std::vector<Travel> slow_travels(const daybook::Daybook& daybook, bool only_new, int longest) {
  std::vector<Travel> travels;
  const auto amounts = daybook.amounts();
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    std::map<int, std::map<std::string, std::int64_t, NaturalLess>> by_day;
    for (std::uint32_t order = daybook.orders_of(customer).begin; order < daybook.orders_of(customer).end;
         ++order)
      for (std::uint32_t line = daybook.lines_of(order).begin; line < daybook.lines_of(order).end; ++line) {
        const std::string item =
            daybook::value_text(daybook.find("category")->values, daybook.line_products()[line]);
        if (daybook.return_flags()[line] == 0 && !item.empty())
          by_day[daybook.date_of_order(order).days][item] += amounts[line];
      }
    Step bought;
    Travel travel;
    int last_day = 0;
    for (const auto& [day, items] : by_day) {
      std::string main;
      for (const auto& [item, amount] : items) {
        if (!bought.insert(item).second && only_new) continue;
        if (main.empty() || amount > items.at(main)) main = item;
      }
      if (main.empty() || static_cast<int>(travel.size()) == longest) continue;
      travel.emplace_back(main, day - last_day);
      last_day = day;
    }
    if (!travel.empty()) travels.push_back(travel);
  }
  return travels;
}

std::string share_text(std::size_t part, std::size_t whole) {
  return fmt::format("{:.6f}", static_cast<double>(part) / static_cast<double>(whole));
}

/// The lower of two middle values.
std::string median_text(std::vector<int> values) {
  std::sort(values.begin(), values.end());
  return std::to_string(values[(values.size() - 1) / 2]);
}

/// Step, from, to, customers, share_of_from, share_of_all, days_median.
Cells slow_flows(const std::vector<Travel>& travels, int longest) {
  std::map<std::tuple<int, std::string, std::string>, std::vector<int>> flows;
  std::map<std::pair<int, std::string>, std::size_t> reached;
  for (const Travel& travel : travels) {
    std::string last;
    int step = 0;
    for (const auto& [item, days] : travel) {
      flows[{++step, last, item}].push_back(days);
      ++reached[{step, item}];
      last = item;
    }
    if (step < longest) flows[{step + 1, last, ""}].push_back(0);
  }
  Cells rows;
  for (const auto& [key, days] : flows) {
    const auto& [step, from, to] = key;
    rows.push_back({std::to_string(step), from, to, std::to_string(days.size()),
                    share_text(days.size(), step == 1 ? travels.size() : reached.at({step - 1, from})),
                    share_text(days.size(), travels.size()),
                    step == 1 || to.empty() ? "" : median_text(days)});
  }
  return sorted(rows);
}

/// Step, item, customers, share_of_step, share_of_all, last_step, last_step_share.
Cells slow_steps(const std::vector<Travel>& travels, int longest) {
  std::map<std::pair<int, std::string>, std::pair<std::size_t, std::size_t>>
      here;  // customers, and those who stop
  std::map<int, std::size_t> at_step;
  for (const Travel& travel : travels)
    for (std::size_t i = 0; i < travel.size(); ++i) {
      const int step = static_cast<int>(i) + 1;
      auto& [customers, stopped] = here[{step, travel[i].first}];
      ++customers;
      stopped += i + 1 == travel.size() ? 1U : 0U;
      ++at_step[step];
    }
  Cells rows;
  for (const auto& [key, counts] : here) {
    const auto& [step, item] = key;
    const bool is_last = step == longest;
    rows.push_back({std::to_string(step), item, std::to_string(counts.first),
                    share_text(counts.first, at_step.at(step)), share_text(counts.first, travels.size()),
                    is_last ? "" : std::to_string(counts.second),
                    is_last ? "" : share_text(counts.second, counts.first)});
  }
  return sorted(rows);
}

RC_GTEST_PROP(Journey, EqualsItsDefinition, ()) {
  const daybook::Daybook daybook = random_daybook();
  const bool only_new = pick(0, 1) == 1;
  const int longest = pick(2, 4);
  const auto result = try_to_ask("sequence",
                                 {{"journey", "category"},
                                  {"repeats", only_new ? "first" : "all"},
                                  {"longest", std::to_string(longest)}},
                                 daybook);
  const std::vector<Travel> travels = slow_travels(daybook, only_new, longest);
  RC_ASSERT(result.has_value() == !travels.empty());
  if (!result) return;
  const result::Table &flows = table(*result, "journey"), &steps = table(*result, "journey-steps");
  RC_ASSERT(sorted(columns_of(flows, {"step", "from", "to", "customers", "share_of_from", "share_of_all",
                                      "days_median"})) == slow_flows(travels, longest));
  RC_ASSERT(sorted(columns_of(steps, {"step", "category", "customers", "share_of_step", "share_of_all",
                                      "last_step", "last_step_share"})) == slow_steps(travels, longest));
  // The most frequent first, at each step; customers without a further step last.
  for (const result::Table* each : {&flows, &steps}) {
    const Cells order = columns_of(*each, {"step", "customers", each == &flows ? "to" : "category"});
    for (std::size_t i = 1; i < order.size(); ++i) {
      const bool ends = order[i][2].empty(), ended = order[i - 1][2].empty();
      RC_ASSERT(std::stoi(order[i - 1][0]) <= std::stoi(order[i][0]));
      if (order[i - 1][0] != order[i][0]) continue;
      RC_ASSERT(!ended || ends);
      if (ends == ended) RC_ASSERT(std::stoi(order[i - 1][1]) >= std::stoi(order[i][1]));
    }
  }
  // The figure loses nobody.
  const result::Table& marks = result->figures.front().marks;
  std::int64_t first = 0;
  for (const auto& row : columns_of(marks, {"step", "customers"}))
    first += row[0] == "1" ? std::stoll(row[1]) : 0;
  RC_ASSERT(first == static_cast<std::int64_t>(travels.size()));
  expect_checks_hold(*result);
}

}  // namespace
}  // namespace pear::test
