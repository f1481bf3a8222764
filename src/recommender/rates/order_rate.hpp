// How many products a customer is going to order.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "recommender/landmarks.hpp"
#include "recommender/rates/category_shares.hpp"
#include "recommender/steps/triggered_products.hpp"
#include "statistics/raking.hpp"

namespace pear::recommender {

/// A count model: the number of products that an active customer orders within the horizon, by how often, how
/// regularly and how long ago they ordered, and how long ago customers of their group did. Log-linear, fitted
/// by raking (statistics/raking), with each factor shrunk towards 1. The season is another such model: the
/// products ordered a year before, relative to the usual number. Numbers vary more between customers than in
/// a Poisson distribution, as in a negative binomial one.
class OrderRate {
 public:
  /// What to leave out of all orders: products triggered by a step, as `shares` of what is ordered.
  struct LeftOut {
    const Categories& categories;
    const CategoryShares& shares;
    const TriggeredProducts& triggered;
  };
  /// Fits the model to all purchases; with `left_out`, to those without a trigger: the number of all products
  /// that would be ordered if no step triggered any. O(entries) for each landmark on all threads; the same
  /// for any number of them.
  [[nodiscard]] static OrderRate fit(const mining::Histories& histories, const Landmarks& landmarks,
                                     const analysis::CustomerGroups& groups,
                                     const LeftOut* left_out = nullptr);

  /// The usual number, without the season.
  [[nodiscard]] double usual(const CustomerState& now, std::uint32_t group) const {
    return usual(levels_of(now, group));
  }
  /// The number in the coming horizon, with its season.
  [[nodiscard]] double forecast(const CustomerState& now, std::uint32_t group) const;
  /// The usual number of a customer of the fitted histories, at a landmark at which they were active.
  [[nodiscard]] double at(std::uint32_t customer, std::size_t landmark) const {
    return by_landmark_[customer * landmarks_ + landmark];
  }
  /// The factor of the season of the coming horizon for all customers: the sum observed a year before divided
  /// by the sum expected then.
  [[nodiscard]] double season() const { return season_; }
  /// The inverse shape of the negative binomial distribution; 0 for a Poisson one.
  [[nodiscard]] double dispersion() const { return dispersion_; }

 private:
  enum Factor : std::uint8_t { kHabit, kPace, kLateness, kGroupRecency };
  static constexpr std::size_t kFactors = 4;
  using Levels = std::array<std::size_t, kFactors>;
  using RakedCells = std::vector<statistics::RakedCell<kFactors>>;
  struct CellCount;
  class CellCounter;

  explicit OrderRate(std::uint32_t groups) : groups_(groups) {}
  void fit_usual(const std::vector<CellCount>& cells, double overlap);
  void fit_season(const std::vector<CellCount>& cells);
  void fit_dispersion(const std::vector<CellCount>& cells);
  [[nodiscard]] static Levels levels_of(const CustomerState& now, std::uint32_t group);
  [[nodiscard]] std::array<std::size_t, kFactors> level_counts() const;
  [[nodiscard]] std::size_t cells() const;
  [[nodiscard]] std::size_t cell_of(const Levels& levels) const;
  [[nodiscard]] Levels levels_at(std::size_t cell) const;
  [[nodiscard]] double usual(const Levels& levels) const { return mean_ * factors_.at(levels); }

  std::uint32_t groups_;
  std::size_t landmarks_ = 0;
  std::vector<float> by_landmark_;  ///< by customer and landmark, because it is used often
  double mean_ = 0, season_ = 1, dispersion_ = 0;
  double variance_to_mean_ = 1;
  statistics::RakedFactors<kFactors> factors_{Levels{}};
  std::optional<statistics::RakedFactors<kFactors>> season_factors_;
};

/// The probability of at least one purchase if this many are expected, for customers whose numbers vary: to
/// second order that of a negative binomial distribution, exact for an inverse shape of 1, and never above 1.
[[nodiscard]] inline double probability_of_any(double expected, double dispersion) {
  if (dispersion > 1) return expected / (1 + (1 + dispersion) / 2 * expected);
  return 1 - 1 / (1 + expected + (1 - dispersion) / 2 * expected * expected);
}

}  // namespace pear::recommender
