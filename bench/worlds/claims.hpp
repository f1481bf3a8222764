// What the questions claim of a simulated shop, compared with its truth.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "worlds/world.hpp"

namespace pear::worlds {

/// One kind of claim, counted in one shop.
struct ClaimCount {
  std::string claim;  ///< "pairs", "directions", ...
  int wrong = 0;      ///< claims that the shop's truth does not contain
  int found = 0;      ///< planted effects that are claimed
};

/// How often the 95% intervals of one figure contain its true value, in one shop.
struct Coverage {
  std::string figure;  ///< "pull", ...
  int inside = 0, intervals = 0;
};

/// The backtest of offers of one kind of purchase: hits of the first 3 offers, and stated and observed purchases.
struct BacktestCount {
  std::string purchases;  ///< "new products", "repurchases"
  std::map<std::string, int> hits;  ///< by method
  double stated = 0, observed = 0;
};

struct ShopReport {
  std::vector<ClaimCount> claims;
  std::vector<Coverage> coverage;
  std::vector<BacktestCount> backtests;
};

/// Asks every question that makes a claim, or one of them. Always the same claims and figures, in the same
/// order.
[[nodiscard]] ShopReport compare_with_truth(const World& world, std::string_view question = {});

}  // namespace pear::worlds
