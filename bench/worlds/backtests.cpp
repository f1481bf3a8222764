#include "worlds/backtests.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "base/date.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "worlds/asking.hpp"

namespace pear::worlds {
namespace {

constexpr int kHeldOut = 90;  // days
constexpr const char* kPlan = "plan by probability";
constexpr const char* kOracle = "oracle";

std::pair<std::int32_t, std::int32_t> days_of(const World& world) {
  const auto days = world.daybook.order_days();
  const auto [begin, end] = std::minmax_element(days.begin(), days.end());
  return {*begin, *end};
}

/// What a customer bought after the cut, with the margin of each product.
struct Later {
  std::set<std::uint32_t> known;  ///< bought up to the cut
  std::map<std::uint32_t, double> margins;
  bool is_active = false;
};

Later later_of(const daybook::Daybook& daybook, std::uint32_t customer, std::int32_t cut) {
  constexpr int kActive = 365;
  Later later;
  const auto margins = daybook::known_margins(daybook);
  const daybook::Run orders = daybook.orders_of(customer);
  for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
    const std::int32_t day = daybook.order_days()[order];
    if (day <= cut && cut - day < kActive) later.is_active = true;
    const daybook::Run lines = daybook.lines_of(order);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      const std::uint32_t product = daybook.line_products()[line];
      if (day <= cut)
        later.known.insert(product);
      else
        later.margins[product] += static_cast<double>(margins[line]) / Decimal::kScale;
    }
  }
  return later;
}

/// Hits of the first 3 and 5 new products that are the likeliest in truth; nothing if the truth is unknown.
std::array<int, 2> oracle_hits(const World& world, std::int32_t cut) {
  std::array<int, 2> hits{};
  const daybook::Daybook& daybook = world.daybook;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    const auto found = world.appeal.find(std::string(daybook.customer_ids()[customer]));
    const Later later = later_of(daybook, customer, cut);
    if (found == world.appeal.end() || !later.is_active) continue;
    std::vector<std::pair<double, std::uint32_t>> ranked;
    for (std::uint32_t product = 0; product < daybook.products(); ++product) {
      const std::string id(daybook.product_ids()[product]);
      if (!id.starts_with('P')) continue;  // a fee
      const auto place = static_cast<std::size_t>(std::stoi(id.substr(1))) - 1;
      if (!later.known.contains(product)) ranked.emplace_back(-found->second[place], product);
    }
    std::sort(ranked.begin(), ranked.end());
    for (std::size_t i = 0; i < std::min<std::size_t>(5, ranked.size()); ++i)
      if (later.margins.contains(ranked[i].second)) hits[0] += i < 3 ? 1 : 0, ++hits[1];
  }
  return hits;
}

/// The expected margin of a plan as of the cut, and what these customers' purchases of these products
/// brought.
Promise margin_of_plan(const World& world, std::int32_t cut, analysis::OptionValues options) {
  options.insert(options.end(), {{"as-of", to_text(Date{cut})}, {"horizon", std::to_string(kHeldOut)}});
  const result::Result result = ask("offers", options, world);
  const result::Table& plan = table(result, "");
  const auto customers = texts(plan, "customer_id"), products = texts(plan, "product_id");
  const auto stated = numbers(plan, "expected_margin");
  std::map<std::string, std::uint32_t> customer_of, product_of;
  for (std::uint32_t i = 0; i < world.daybook.customers(); ++i)
    customer_of[std::string(world.daybook.customer_ids()[i])] = i;
  for (std::uint32_t i = 0; i < world.daybook.products(); ++i)
    product_of[std::string(world.daybook.product_ids()[i])] = i;
  std::map<std::string, Later> laters;
  Promise promise;
  for (std::size_t row = 0; row < stated.size(); ++row) {
    const auto [place, is_new] = laters.try_emplace(customers[row]);
    if (is_new) place->second = later_of(world.daybook, customer_of.at(customers[row]), cut);
    const auto bought = place->second.margins.find(product_of.at(products[row]));
    promise.stated += stated[row];
    if (bought != place->second.margins.end()) promise.realised += bought->second;
  }
  return promise;
}

void count_hits(const result::Table& test, BacktestCount& count) {
  constexpr double kWidth = 2 * 1.96;  // standard errors
  const auto purchases = texts(test, "purchases"), methods = texts(test, "method"),
             first = texts(test, "first");
  const auto hits = numbers(test, "hits"), per_customer = numbers(test, "hits_per_customer"),
             low = numbers(test, "plan_advantage_low"), high = numbers(test, "plan_advantage_high");
  for (std::size_t row = 0; row < hits.size(); ++row) {
    if (purchases[row] != count.purchases || first[row] == "1") continue;
    count.hits[methods[row]].at(first[row] == "3" ? 0 : 1) = static_cast<int>(hits[row]);
    const double customers = per_customer[row] > 0 ? hits[row] / per_customer[row] : 0;
    if (first[row] == "3")
      count.variance[methods[row]] = std::pow(customers * (high[row] - low[row]) / kWidth, 2);
  }
}

void count_promises(const result::Table& thirds, BacktestCount& count) {
  const auto purchases = texts(thirds, "purchases");
  const auto pairs = numbers(thirds, "pairs"), stated = numbers(thirds, "stated"),
             bought = numbers(thirds, "bought");
  std::size_t third = 0;
  for (std::size_t row = 0; row < pairs.size(); ++row) {
    if (purchases[row] != count.purchases) continue;
    const Promise promise{pairs[row] * stated[row], bought[row]};
    count.purchases_of_thirds.at(third++) = promise;
    count.purchases_of_all.add(promise);
  }
}

}  // namespace

double Promise::ratio() const { return realised > 0 ? stated / realised : std::nan(""); }

void BacktestCount::add(const BacktestCount& other) {
  purchases = other.purchases;
  for (const auto& [method, own] : other.hits)
    for (std::size_t i = 0; i < own.size(); ++i) hits[method].at(i) += own.at(i);
  for (const auto& [method, own] : other.variance) variance[method] += own;
  purchases_of_all.add(other.purchases_of_all);
  for (std::size_t i = 0; i < purchases_of_thirds.size(); ++i)
    purchases_of_thirds.at(i).add(other.purchases_of_thirds.at(i));
  for (std::size_t i = 0; i < margins.size(); ++i) margins.at(i).add(other.margins.at(i));
}

bool has_room_for_backtest(const World& world) {
  constexpr int kShortest = 365;  // days
  const auto [begin, end] = days_of(world);
  return end - begin >= kShortest;
}

std::vector<BacktestCount> backtest_offers(const World& world) {
  const std::int32_t cut = days_of(world).second - kHeldOut;
  const result::Result result = ask("offers", {{"test", std::to_string(kHeldOut)}, {"folds", "1"}}, world);
  std::vector<BacktestCount> counts;
  for (const std::string kind : {"new products", "repurchases"}) {
    BacktestCount& count = counts.emplace_back();
    count.purchases = kind;
    count_hits(table(result, "test"), count);
    count_promises(table(result, "calibration-customers"), count);
  }
  if (!world.appeal.empty()) counts[0].hits[kOracle] = oracle_hits(world, cut);
  counts[0].margins = {margin_of_plan(world, cut, {}), margin_of_plan(world, cut, {{"budget", "100"}})};
  return counts;
}

void print_backtest(std::string_view world, const BacktestCount& count) {
  std::string best;
  for (const auto& [method, hits] : count.hits)
    if (!method.starts_with("plan") && method != kOracle &&
        (best.empty() || hits[0] > count.hits.at(best)[0]))
      best = method;
  const auto [three, five] = count.hits.at(kPlan);
  const auto& [best_three, best_five] = count.hits.at(best);
  const double half = 1.96 * std::sqrt(count.variance.at(best));
  const int ahead = three - best_three;
  const auto ratio = [](const Promise& promise) {
    return promise.realised > 0 ? fmt::format("{:.2f}", promise.ratio()) : "-";
  };
  const auto oracle = count.hits.find(kOracle);
  fmt::print(
      "| {} | {} | {}, {} | {}: {}, {} | {:+d} ({:+.0f} to {:+.0f}) | {} | {} | {}, {}, {} | {} |\n", world,
      count.purchases, three, five, best, best_three, best_five, ahead, ahead - half, ahead + half,
      oracle == count.hits.end() ? "" : fmt::format("{}, {}", oracle->second[0], oracle->second[1]),
      ratio(count.purchases_of_all), ratio(count.purchases_of_thirds[0]), ratio(count.purchases_of_thirds[1]),
      ratio(count.purchases_of_thirds[2]),
      count.margins[0].stated > 0 ? fmt::format("{}, {}", ratio(count.margins[0]), ratio(count.margins[1]))
                                  : "");
}

}  // namespace pear::worlds
