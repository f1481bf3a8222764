// What the questions claim of a simulated shop, compared with its truth.
#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "worlds/backtests.hpp"
#include "worlds/world.hpp"

namespace pear::worlds {

/// One kind of claim, counted in one shop.
struct ClaimCount {
  std::string claim;  ///< "pairs", "directions", ...
  int wrong = 0;      ///< claims that the shop's truth does not contain
  int found = 0;      ///< planted effects that are claimed
  int planted = 0;    ///< those that could be
};

/// The 95% intervals of one figure in one shop, to be compared with its true value.
struct Coverage {
  std::string figure;  ///< "pull", ...
  std::vector<std::pair<double, double>> intervals;  ///< minus the true value, if that is known
  /// Otherwise it is a rate, the same in all shops of a world: these are its numerator and denominator here.
  double successes = 0, trials = 0;
};

struct ShopReport {
  std::vector<ClaimCount> claims;
  std::vector<Coverage> coverage;
  std::vector<BacktestCount> backtests;
};

/// Whether offers are backtested, which takes most of the time of a shop.
enum class Backtest : std::uint8_t { no, yes };

/// Asks every question that makes a claim, or one of them. Always the same claims and figures, in the same
/// order.
[[nodiscard]] ShopReport compare_with_truth(const World& world, std::string_view question, Backtest with);

}  // namespace pear::worlds
