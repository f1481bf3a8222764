// How much customers are going to order anyway.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "mining/purchase_histories.hpp"
#include "recommender/category_shares.hpp"
#include "recommender/landmarks.hpp"
#include "recommender/triggered_products.hpp"

namespace pear::recommender {

/// How many products an active customer orders within the horizon, by how often, how regularly and how long
/// ago they ordered, and how long ago customers of their group did: a log-linear model, fitted by raking its
/// factors to the sums that were seen (Deming and Stephan, On a least squares adjustment of a sampled
/// frequency table, Annals of Mathematical Statistics 11, 1940), each drawn to 1 as if 5 more had been
/// ordered as expected. The season is another such model, of what was ordered a year before by what is usual,
/// each factor drawn to 1 as if 50 more had been ordered as is usual.
class OrderRate {
 public:
  /// Of all that is ordered.
  OrderRate(const mining::Histories& histories, const Landmarks& lookback,
            const analysis::CustomerGroups& groups);
  /// Learns anew, of what no step leads to: the numbers of all products, if no step led to any of them.
  void leave_out(const mining::Histories& histories, const Landmarks& lookback,
                 const analysis::CustomerGroups& groups, const Categories& shelves,
                 const CategoryShares& shares, const TriggeredProducts& led_to);

  /// As is usual, whatever the season.
  [[nodiscard]] double of(const CustomerState& now, std::uint32_t group) const {
    return expected(place_of(now, group));
  }
  /// Of the coming horizon: with what its season does.
  [[nodiscard]] double coming(const CustomerState& now, std::uint32_t group) const;
  /// Of a customer whose history was learned from, at a landmark at which they were active.
  [[nodiscard]] double at(std::uint32_t customer, std::size_t landmark) const {
    return by_case_[customer * landmarks_ + landmark];
  }
  /// What the season of the coming horizon does to all: what was seen a year before by what was expected
  /// then.
  [[nodiscard]] double season() const { return season_; }
  /// By how much they vary beyond a Poisson distribution: the inverse shape of a negative binomial one.
  [[nodiscard]] double dispersion() const { return dispersion_; }

 private:
  static constexpr std::array<std::uint32_t, 10> kOrders = {1, 2, 3, 4, 5, 7, 9, 13, 17, 33};
  static constexpr std::array<std::int32_t, 9> kRecency = {0, 8, 15, 30, 60, 90, 180, 270, 365};
  static constexpr std::array<double, 7> kPace = {0, 0.5, 1, 1.5, 2, 3, 5};  ///< orders in 90 days
  static constexpr std::size_t kLateness = 14;  ///< recency by the customer's own gap, and "no gap yet"
  static constexpr std::size_t kHabits = kOrders.size() * kRecency.size();
  static constexpr double kUnits = 1e6;  ///< cases are counted in millionths

  /// Which levels of the factors a customer is on.
  struct Place {
    std::size_t habit = 0;  ///< orders and recency
    std::size_t pace = 0, lateness = 0;
    std::size_t group_turn = 0;  ///< group and recency
    [[nodiscard]] std::array<std::size_t, 4> levels() const { return {habit, pace, lateness, group_turn}; }
  };
  struct Factors {
    std::array<std::vector<double>, 4> of_levels;
    [[nodiscard]] double of(const Place& place) const;
  };
  /// Customers who are alike in everything: how much of them could be seen, and what was.
  struct Cell {
    std::uint64_t units = 0, items = 0, squares = 0;
    void add(const Cell& other) { units += other.units, items += other.items, squares += other.squares; }
    [[nodiscard]] double cases() const { return static_cast<double>(units) / kUnits; }
  };
  struct Led;
  class Counter;

  /// Of all, or, with `led`, of what no step leads to.
  void learn(const mining::Histories& histories, const Landmarks& lookback,
             const analysis::CustomerGroups& groups, const Led* led);
  void learn_usual(const std::vector<Cell>& cells, double overlap);
  void learn_season(const std::vector<Cell>& cells);
  void find_spread(const std::vector<Cell>& cells);
  /// Factors of what was seen by `usual`.
  [[nodiscard]] Factors rake(const std::vector<Cell>& cells, const std::function<double(const Place&)>& usual,
                             double drawn) const;
  [[nodiscard]] static Place place_of(const CustomerState& now, std::uint32_t group);
  [[nodiscard]] std::size_t cells() const;
  [[nodiscard]] std::size_t cell_of(const Place& place) const;
  [[nodiscard]] Place place_at(std::size_t cell) const;
  [[nodiscard]] double expected(const Place& place) const { return mean_ * usual_.of(place); }

  std::size_t groups_, landmarks_;
  std::vector<float> by_case_;  ///< by customer and landmark: it is asked for often
  double mean_ = 0, season_ = 1, dispersion_ = 0;
  double lumps_ = 1;  ///< variance by mean: in what lumps items come
  Factors usual_;
  std::optional<Factors> of_season_;
};

/// The chance of at least one purchase where so many are expected, of customers whose numbers vary: to second
/// order that of a negative binomial distribution, exact for an inverse shape of 1, and never above 1.
[[nodiscard]] inline double probability_of_any(double expected, double dispersion) {
  if (dispersion > 1) return expected / (1 + (1 + dispersion) / 2 * expected);
  return 1 - 1 / (1 + expected + (1 - dispersion) / 2 * expected * expected);
}

}  // namespace pear::recommender
