// How good offers are in a simulated shop: hits, compared with baselines and with a plan that knows the truth; and
// purchases and margins, stated and realised.
#pragma once

#include <array>
#include <map>
#include <string>
#include <vector>

#include "worlds/world.hpp"

namespace pear::worlds {

/// Stated and realised.
struct Promise {
  double stated = 0, realised = 0;
  void add(const Promise& other) { stated += other.stated, realised += other.realised; }
  [[nodiscard]] double ratio() const;
};

/// The backtest of offers of one kind of purchase, over the last 90 days.
struct BacktestCount {
  std::string purchases;                         ///< "new products", "repurchases"
  std::map<std::string, std::array<int, 2>> hits;  ///< by method, of the first 3 and 5 offers
  std::map<std::string, double> variance;  ///< by baseline, of the plan's advantage in hits of the first 3 offers
  Promise purchases_of_all;
  std::array<Promise, 3> purchases_of_thirds;  ///< of the customers by purchases so far
  /// Of new products: margin of the default plan, and of one for 100 customers, both kinds of purchases.
  std::array<Promise, 2> margins;

  void add(const BacktestCount& other);
};

/// Whether there is enough before the last 90 days to learn from.
[[nodiscard]] bool has_room_for_backtest(const World& world);

/// New products, then repurchases.
[[nodiscard]] std::vector<BacktestCount> backtest_offers(const World& world);

/// A row of the table of offers, in Markdown.
void print_backtest(std::string_view world, const BacktestCount& count);

}  // namespace pear::worlds
