// The probabilities of one customer's purchases, ranked as offers.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "recommender/baselines.hpp"
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
  double uplift = 0;           ///< the part of `expected` that an offer can cause
  std::uint32_t rank = 0;      ///< among the customer's offers, from 1
  /// The earlier purchase of the customer that says most for this new product in the linear model;
  /// kNoMember if none does.
  std::uint32_t similar = daybook::kNoMember;
  ProbabilityParts parts;
  std::optional<Trigger> trigger;
  std::uint32_t orders = 0;       ///< of the customer so far
  std::int32_t last_ago = 0;      ///< days since the last of them
  std::uint32_t own_orders = 0;   ///< of these, orders with the product
  std::int32_t own_last_ago = 0;  ///< days since the last of these
  std::int32_t own_days = 0;      ///< days from the first to the last of these

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
  std::optional<BaselineMethod> method;            ///< chooses the offers of each customer; none: the plan
};

/// By expected value, then by customer and product.
[[nodiscard]] bool is_better(const Offer& a, const Offer& b);
/// By what an offer can cause, then likewise.
[[nodiscard]] bool has_more_uplift(const Offer& a, const Offer& b);

/// Scores one customer after another. One for each thread. Borrows its inputs.
class Scorer {
 public:
  /// `baselines` are needed for constraints.method.
  Scorer(const OfferModel& model, const mining::Histories& known, const Constraints& constraints,
         const Baselines* baselines = nullptr);

  /// All products that may be offered to a customer, in order of product. Empty if the customer is not
  /// active. O(products).
  const std::vector<Offer>& score(std::uint32_t customer);
  /// Adds the best of them, best first; or in the order of constraints.method.
  void best(std::uint32_t customer, std::size_t most, std::vector<Offer>& into,
            bool (*is_before)(const Offer&, const Offer&) = is_better);

 private:
  const std::vector<Offer>& score(std::uint32_t customer, std::span<const std::uint32_t> products);
  void keep_chosen(std::uint32_t customer, std::size_t most);
  void find_similar(Offer& offer) const;
  /// Of one purchase, in units of Decimal.
  [[nodiscard]] double value_of(std::uint32_t group, std::uint32_t product) const;

  const OfferModel& model_;
  const mining::Histories& known_;
  const Constraints& constraints_;
  const Baselines* baselines_;
  CandidateReader reader_;
  std::vector<Offer> offers_;
  std::vector<std::uint32_t> products_;
};

}  // namespace pear::recommender
