// In how many orders each customer paid less than expected, and whether that is significant.
#pragma once

#include <cstdint>
#include <vector>

#include "daybook/daybook.hpp"
#include "questions/prices/price_comparison.hpp"
#include "questions/prices/price_of_the_time.hpp"

namespace pear::prices {

/// The compared orders of a customer: those with a product whose price can be compared by volume.
struct OrderEvidence {
  /// Orders at least 5% below a price, and the q value of this number.
  struct Below {
    double most = 0.5;  ///< the share of orders that must be below
    std::uint32_t orders = 0;
    double q_value = 1;
  };
  std::uint32_t orders = 0;
  Below expected{0.75, 0, 1};  ///< below the price expected for the volume
  Below usual;  ///< below the price at the usual quantity; small orders of large customers may not be

  /// Whether it is significant (q <= 0.05), and so in most orders.
  [[nodiscard]] bool is_clear(const Below& below) const;
};

/// By customer. An order is one observation, however many lines a voucher applies to. The test treats orders
/// of the same month and of the same number of compared lines as interchangeable, like a permutation of these
/// orders among customers: each is low with the probability of such orders, fitted by raking. The number of a
/// customer's low orders is compared with the binomial distribution of the mean probability, whose upper tail
/// is no thinner than the exact one (Hoeffding, On the distribution of the number of successes in independent
/// trials, Annals of Mathematical Statistics 27, 1956). q values are over all customers with compared orders
/// (Benjamini and Hochberg 1995). Orders of customers who are clearly low are then left out of the
/// probabilities, and the rest is tested again, until no customer is added: where nobody is low, that changes
/// nothing. O(lines), and O(orders) for each of at most 6 rounds.
[[nodiscard]] std::vector<OrderEvidence> order_evidence(const daybook::Daybook& daybook,
                                                        const PriceComparison& prices,
                                                        const PriceOfTheTime& time);

}  // namespace pear::prices
