// Prints, for each world and claim, how many claims are wrong: worlds [--short] [SHOPS [WORLD|all
// [QUESTION]]].
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include <fmt/format.h>

#include "worlds/claims.hpp"

namespace {

struct Sums {
  int wrong = 0, shops_with_wrong = 0, found = 0, planted = 0, shops = 0;
};
/// Of several shops of a world.
struct Summary {
  std::vector<std::pair<std::string, Sums>> claims;
  std::vector<pear::worlds::Coverage> coverage;
  std::vector<pear::worlds::BacktestCount> backtests;
};

/// Offers are backtested in the first `backtests` shops.
Summary ask(const pear::worlds::WorldOptions& world, int shops, int backtests, std::string_view question) {
  using pear::worlds::Backtest;
  Summary all;
  for (int shop = 0; shop < shops; ++shop) {
    const auto report =
        pear::worlds::compare_with_truth(pear::worlds::simulate(world, static_cast<unsigned>(shop) + 1),
                                         question, shop < backtests ? Backtest::yes : Backtest::no);
    for (std::size_t i = 0; i < report.claims.size(); ++i) {
      if (all.claims.size() == i) all.claims.emplace_back(report.claims[i].claim, Sums{});
      Sums& sum = all.claims[i].second;
      sum.wrong += report.claims[i].wrong;
      sum.shops_with_wrong += report.claims[i].wrong > 0 ? 1 : 0;
      sum.found += report.claims[i].found;
      sum.planted += report.claims[i].planted;
      ++sum.shops;
    }
    for (std::size_t i = 0; i < report.coverage.size(); ++i) {
      if (all.coverage.size() == i) all.coverage.push_back({report.coverage[i].figure, {}, 0, 0});
      pear::worlds::Coverage& sum = all.coverage[i];
      const auto& intervals = report.coverage[i].intervals;
      sum.intervals.insert(sum.intervals.end(), intervals.begin(), intervals.end());
      sum.successes += report.coverage[i].successes;
      sum.trials += report.coverage[i].trials;
    }
    if (shop == 0) all.backtests.resize(report.backtests.size());
    for (std::size_t i = 0; i < report.backtests.size(); ++i) all.backtests[i].add(report.backtests[i]);
  }
  return all;
}

void print(const pear::worlds::WorldOptions& world, const Summary& all) {
  for (const auto& [claim, sum] : all.claims)
    fmt::print("| {} | {} | {:.2f} | {} of {} | {:.2f} of {:.2f} | |\n", world.name, claim,
               1.0 * sum.wrong / sum.shops, sum.shops_with_wrong, sum.shops, 1.0 * sum.found / sum.shops,
               1.0 * sum.planted / sum.shops);
  for (const auto& [figure, intervals, successes, trials] : all.coverage) {
    if (intervals.empty()) continue;
    const double truth = trials > 0 ? successes / trials : 0;
    const auto inside = std::count_if(intervals.begin(), intervals.end(), [&](const auto& interval) {
      return interval.first <= truth && truth <= interval.second;
    });
    fmt::print("| {} | {} | | | | {:.1f}% of {} |\n", world.name, figure,
               100.0 * static_cast<double>(inside) / static_cast<double>(intervals.size()), intervals.size());
  }
  for (const pear::worlds::BacktestCount& count : all.backtests)
    pear::worlds::print_backtest(world.name, count);
  std::fflush(stdout);
}

/// Whether claims that hold back false discoveries do so: at a rate of 1 in 20 shops, more than 1 in 8 of
/// about 60 is unlikely.
bool is_valid(const std::map<std::string, Sums>& all) {
  bool valid = true;
  for (const std::string claim : {"pairs", "rules", "bundles", "directions", "steps", "pulls",
                                  "unexplained prices", "volume prices", "entry products"}) {
    const Sums& sum = all.at(claim);
    if (8 * sum.shops_with_wrong <= sum.shops) continue;
    fmt::print("{} are wrong in {} of {} shops without any\n", claim, sum.shops_with_wrong, sum.shops);
    valid = false;
  }
  return valid;
}

}  // namespace

int main(int count, char** words) {
  const bool is_short = count > 1 && std::string_view(words[1]) == "--short";
  const int shops = is_short ? 4 : count > 1 ? std::max(1, std::atoi(words[1])) : 20;
  fmt::print(
      "| world | claim | wrong claims per shop | shops with any | planted and found | intervals with the "
      "truth |\n"
      "| --- | --- | ---: | ---: | ---: | ---: |\n");
  std::map<std::string, Sums> all;
  for (const pear::worlds::WorldOptions& world : pear::worlds::all_worlds()) {
    if (count > 2 && words[2] != std::string_view("all") && world.name != words[2]) continue;
    if (is_short && world.products > 10'000) continue;  // offers takes minutes
    constexpr int kLarge = 3'000;                       // customers: a shop takes several seconds
    const Summary summary = ask(world, is_short && world.customers > kLarge ? 1 : shops, is_short ? 1 : shops,
                                count > 3 ? words[3] : "");
    print(world, summary);
    if (world.planted_pairs + world.planted_sequels > 0 || world.negotiated > 0) continue;
    for (const auto& [claim, sum] : summary.claims) {
      all[claim].shops += sum.shops;
      all[claim].shops_with_wrong += sum.shops_with_wrong;
    }
  }
  return is_short && !is_valid(all) ? 1 : 0;
}
