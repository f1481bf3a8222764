// The probabilities of one customer's purchases, ranked as offers.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "recommender/offer_model.hpp"

namespace pear::recommender {

/// One product for one customer.
struct Offer {
  using Trigger = Candidate::Trigger;
  std::uint32_t customer = 0, product = 0;
  bool is_repurchase = false;  ///< the customer bought the product before
  double probability = 0;      ///< of buying it within the horizon
  double baseline = 0;         ///< the part of it that would be left without any step
  double purchases = 0;        ///< the expected number of orders with it within the horizon; with
                               ///< Constraints::uplift only those that an offer can cause
  double expected = 0;         ///< what offers are ranked by: the purchases, times the value of one; or, by
                               ///< probability, the probability of one
  std::optional<Trigger> trigger;
  std::uint32_t orders = 0;       ///< of the customer so far
  std::int32_t last_ago = 0;      ///< days since the last of them
  std::uint32_t own_orders = 0;   ///< of these, orders with the product
  std::int32_t own_last_ago = 0;  ///< days since the last of these

  /// Whether the step explains more than the baseline does.
  [[nodiscard]] bool is_triggered() const {
    return trigger.has_value() && (probability - baseline) > baseline;
  }
};

enum class RankBy : std::uint8_t { margin, probability, amount };

struct Constraints {
  std::size_t per_customer = 3;
  double min_probability = 0;
  RankBy rank_by = RankBy::margin;
  /// Count only purchases that an offer can cause: of new products, and those that a step triggers.
  /// Regular repurchases happen without an offer.
  bool uplift = false;
  std::vector<std::uint8_t> allowed;               ///< by product
  std::optional<std::vector<std::int64_t>> stock;  ///< by product, pieces
  std::optional<std::size_t> budget;               ///< customers
};

/// Scores one customer after another. One for each thread. Borrows its inputs.
class Scorer {
 public:
  Scorer(const OfferModel& model, const mining::Histories& known, const Constraints& constraints);

  /// All products that may be offered to a customer, in order of product. Empty if the customer is not
  /// active. O(products).
  const std::vector<Offer>& score(std::uint32_t customer);
  /// Adds the best of them, best first: by expected value, then by product.
  void best(std::uint32_t customer, std::size_t most, std::vector<Offer>& into);

 private:
  /// Of one purchase, in units of Decimal.
  [[nodiscard]] double value_of(std::uint32_t group, std::uint32_t product) const;

  const OfferModel& model_;
  const Constraints& constraints_;
  CandidateReader reader_;
  std::vector<Offer> offers_;
};

/// By expected value, then by customer and product.
[[nodiscard]] bool is_better(const Offer& a, const Offer& b);

}  // namespace pear::recommender
