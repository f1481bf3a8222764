// What customers are going to buy anyway: how much, of which shelf, and which product of it.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "daybook/daybook.hpp"
#include "question/customer_groups.hpp"
#include "question/histories.hpp"
#include "question/offer_lookback.hpp"

namespace pear {

/// The shelf of each product: its `category`, where the daybook has it; otherwise all are on one.
struct Shelves {
  std::uint32_t count = 1;
  std::vector<std::uint32_t> of_product;
};
[[nodiscard]] Shelves shelves_of(const Daybook& daybook);

/// How many products an active customer orders within the horizon, by how often, how regularly and how long
/// ago they ordered, and their group: a log-linear model of main effects, fitted by raking its factors to the
/// sums that were seen (Deming and Stephan, On a least squares adjustment of a sampled frequency table,
/// Annals of Mathematical Statistics 11, 1940), each drawn to 1 as if 5 more had been ordered as expected.
class ExpectedItems {
 public:
  ExpectedItems(const Histories& histories, const Lookback& lookback, const CustomerGroups& groups);

  /// As is usual, whatever the season.
  [[nodiscard]] double of(const CustomerCase& now, std::uint32_t group) const;
  /// Of the coming horizon: with what its season did a year before to those who had ordered as long ago.
  [[nodiscard]] double coming(const CustomerCase& now, std::uint32_t group) const;
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
  static constexpr std::array<std::uint32_t, 6> kOrders = {1, 2, 3, 5, 9, 17};
  static constexpr std::array<std::int32_t, 8> kRecency = {0, 8, 15, 30, 60, 90, 180, 365};
  static constexpr std::array<double, 7> kPace = {0, 0.5, 1, 1.5, 2, 3, 5};  ///< orders in 90 days
  static constexpr std::size_t kLateness = 14;  ///< recency by the customer's own gap, and "no gap yet"
  static constexpr std::size_t kHabits = kOrders.size() * kRecency.size();
  struct Place {
    std::size_t habit = 0, pace = 0, lateness = 0, group = 0;
  };
  struct Cell {
    std::uint64_t cases = 0, items = 0, squares = 0;
    void add(const Cell& other) { cases += other.cases, items += other.items, squares += other.squares; }
  };

  [[nodiscard]] static Place place_of(const CustomerCase& now, std::uint32_t group);
  [[nodiscard]] std::size_t cell_of(const Place& place) const;
  [[nodiscard]] Place place_at(std::size_t cell) const;
  [[nodiscard]] double expected(const Place& place) const;
  void rake(const std::vector<Cell>& cells);
  void learn_season(const std::vector<Cell>& cells);

  std::size_t groups_, landmarks_;
  std::vector<float> by_case_;  ///< by customer and landmark: it is asked for often
  double mean_ = 0, season_ = 1, dispersion_ = 0;
  std::array<double, kRecency.size()> season_by_recency_{};
  std::array<std::vector<double>, 4> factors_;  ///< of habit, pace, lateness and group
};

/// Of what is ordered, the share of each shelf and product. A customer's shelves are a mixture of their own
/// and their group's: the mean of a Dirichlet-multinomial distribution, whose concentration is the likeliest
/// for all customers (Goodhardt, Ehrenberg and Chatfield, The Dirichlet: a comprehensive model of buying
/// behaviour, JRSS A 147, 1984). The product of a shelf is its share there in the group, drawn to that of all
/// customers as if they had bought 20 more.
class Shares {
 public:
  Shares(const Histories& histories, const CustomerGroups& groups, const Shelves& shelves);

  [[nodiscard]] double of_product(std::uint32_t group, std::uint32_t product) const {
    return of_product_[group * products_ + product];
  }
  /// Multiplies the shares, by group and then product.
  void adjust(const std::vector<double>& factors);
  /// By shelf, of a customer who bought `items` in all, `bought[shelf]` of each shelf.
  void of_shelves(std::uint32_t group, std::span<const std::uint32_t> bought, std::uint32_t items,
                  std::span<double> shares) const;
  /// Of one shelf, of which `bought` of `items` were.
  [[nodiscard]] double of_shelf(std::uint32_t group, std::uint32_t shelf, std::uint32_t bought,
                                std::uint32_t items) const {
    return (bought + concentration_ * of_shelf_[group * shelves_ + shelf]) / (items + concentration_);
  }

 private:
  void find_concentration(const Histories& histories, const CustomerGroups& groups, const Shelves& shelves);

  std::size_t products_, shelves_;
  std::vector<double> of_product_;  ///< by group, then product: of its shelf
  std::vector<double> of_shelf_;    ///< by group, then shelf
  double concentration_ = 1;
};

/// The chance of at least one purchase where so many are expected, of customers whose numbers vary: to second
/// order that of a negative binomial distribution, exact for an inverse shape of 1, and never above 1.
[[nodiscard]] inline double chance_of_any(double expected, double dispersion) {
  if (dispersion > 1) return expected / (1 + (1 + dispersion) / 2 * expected);
  return 1 - 1 / (1 + expected + (1 - dispersion) / 2 * expected * expected);
}

}  // namespace pear
