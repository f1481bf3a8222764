// Simulated shops whose truth is known, from published models of buying.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "daybook/daybook.hpp"

namespace pear::worlds {

/// What a shop is like. The defaults plant nothing: every finding in it is false.
struct WorldOptions {
  std::string_view name;
  int customers = 600, products = 60, days = 1'095;
  int days_before = 0;  ///< the shop is older than its data by this many days

  /// Orders come at a rate of each customer's own (gamma, NBD: Ehrenberg 1959); after each order, customers
  /// stay away for good with a probability of their own (beta-geometric: Fader, Hardie and Lee, "Counting your
  /// customers" the easy way, Marketing Science 24, 2005).
  double mean_gap = 150;  ///< days between orders, on average
  double rate_shape = 2;
  double dropout = 0.05;

  enum class Sizes : std::uint8_t { poisson, geometric, lognormal };
  Sizes sizes = Sizes::poisson;
  double mean_size = 2.5;

  /// Customers of different size: those with larger baskets buy more of each product, too (gamma, of this
  /// shape). Nothing: all are alike.
  std::optional<double> customer_size_shape;
  bool has_cash_customer = false;  ///< one id for all sales without a name: a third of all orders

  double zipf = 0.7;  ///< popularity of the nth product: n^-zipf
  /// How alike customers are: each draws products from a Dirichlet distribution of this precision around the
  /// popularities (Goodhardt, Ehrenberg and Chatfield, The Dirichlet: a comprehensive model of buying
  /// behaviour, JRSS A 147, 1984). Nothing: all have the same tastes.
  std::optional<double> taste_precision;

  int kinds = 0;             ///< hidden kinds of customers, to each of which other products appeal
  int taste_dimensions = 0;  ///< of a space in which products have places, and customers directions

  double launched = 0, withdrawn = 0;  ///< shares of products that start, or end, within the data
  int segments = 0;     ///< of customers: each buys the products of its own segment three times as often
  int consumables = 0;  ///< products that are used up and bought again, the most popular ones
  bool has_freight = false;  ///< orders below 50 have a freight charge: a line that is marked as a fee
  bool has_seasons = false;            ///< every third product is bought three times as often in its quarter

  double voucher_orders = 0;  ///< share of orders with a 20% voucher
  bool has_price_rise = false, has_sale_weeks = false;
  double negotiated = 0;         ///< share of customers who pay 12% less
  double volume_customers = 0;   ///< share of customers who buy ten times as many pieces and pay 15% less

  int planted_pairs = 0;      ///< products that bring their partner along
  double pair_strength = 0.3;  ///< the share of the first one's baskets in which they do
  int planted_sequels = 0;    ///< products that are followed by another, some weeks after
  double sequel_strength = 0.3;
  int planted_pulls = 0;  ///< products in whose baskets more is bought of each other product
  double pull_strength = 0.5;  ///< the probability of one more piece
};

struct World {
  daybook::Daybook daybook;
  std::vector<std::pair<std::string, std::string>> pairs;    ///< planted, as product ids
  std::vector<std::pair<std::string, std::string>> sequels;  ///< planted: earlier, later
  std::set<std::string> negotiated, volume;  ///< planted: customers
  std::set<std::string> new_customers;       ///< whose first order is within the data
  std::map<std::string, double> pulls;  ///< planted: the margin that each brings, per basket with it
  /// By customer, how likely each product is in truth to be chosen within the last 90 days, times a number; empty if
  /// something is planted that depends on earlier purchases, or the shop has too many products to keep it.
  std::map<std::string, std::vector<float>> appeal;
  /// Products that are bought by the same customers, or at the same times, by group. That two of one group are
  /// bought together is neither planted nor false.
  std::map<std::string, int> common_cause;
};

/// The same world for the same seed.
[[nodiscard]] World simulate(const WorldOptions& options, std::uint64_t seed);

/// The shops in which questions are tested.
[[nodiscard]] std::vector<WorldOptions> all_worlds();

}  // namespace pear::worlds
