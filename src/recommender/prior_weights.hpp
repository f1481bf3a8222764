// Prior weights, in purchases: how strongly each estimate is shrunk towards that of a larger group.
#pragma once

/// Posterior means of gamma-Poisson and Dirichlet-multinomial models with these weights of the prior. They
/// were chosen for the calibration of backtests of the made-up shop at 16 thousand to 10 million lines
/// (docs/offers.md).
namespace pear::recommender::prior_weight {

/// Factors of the order rate, towards 1. Small: each level of a factor is observed for many customers.
constexpr double kOrderRate = 5;
/// Factors of the season, towards 1. Large: one year is a single observation of a season, so few sales must
/// not make one.
constexpr double kSeason = 50;
/// A group's share of a product within its category, towards that of all customers: assortments are long,
/// groups small.
constexpr double kProductShare = 20;
/// The ratio of untriggered to expected purchases of a product: of all customers towards 1, of a group
/// towards all customers.
constexpr double kUntriggered = 20;
/// An uplift in a recency state, towards the state before it, within the most significant window, where the
/// uplift is known to exist.
constexpr double kUpliftWithinWindow = 5;
/// The same beyond that window, where purchases are few and the uplift mostly ends.
constexpr double kUpliftBeyondWindow = 0.5;
/// How strongly a group responds to a step, towards all customers.
constexpr double kGroupUplift = 3;
/// The same in a single recency state, of which a group has few purchases.
constexpr double kGroupUpliftInState = 8;
/// The mean amount and margin of a purchase by a group, towards all customers: prices vary little between
/// groups.
constexpr double kPurchaseValue = 3;

}  // namespace pear::recommender::prior_weight
