// The probabilities of one customer's purchases, ranked as offers.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "recommender/purchase_model.hpp"

namespace pear::recommender {

/// One product for one customer.
struct Offer {
  /// The step with the largest uplift, with the earlier product that triggers it.
  struct Trigger {
    std::uint32_t cell = 0;  ///< of the step model
    std::uint32_t product = 0;
    std::int32_t days_ago = 0;  ///< since the last purchase of it
  };
  std::uint32_t customer = 0, product = 0;
  bool is_repurchase = false;  ///< the customer bought the product before
  double probability = 0;      ///< of buying it within the horizon
  double baseline = 0;         ///< the same without any step
  double expected = 0;  ///< what offers are ranked by: the probability, times the value of a purchase unless
                        ///< ranked by probability
  std::optional<Trigger> trigger;
  std::uint32_t orders = 0;   ///< of the customer so far
  std::int32_t last_ago = 0;  ///< days since the last of them

  /// Whether the step explains more than the baseline does. Only then is a product due again.
  [[nodiscard]] bool is_triggered() const {
    return trigger.has_value() && (probability - baseline) > baseline;
  }
};

enum class RankBy : std::uint8_t { margin, probability, amount };

struct Constraints {
  std::size_t per_customer = 3;
  double min_probability = 0;
  RankBy rank_by = RankBy::margin;
  std::vector<std::uint8_t> allowed;               ///< by product
  std::optional<std::vector<std::int64_t>> stock;  ///< by product, pieces
  std::optional<std::size_t> budget;               ///< customers
};

/// Scores one customer after another. One for each thread. Borrows its inputs.
class Scorer {
 public:
  Scorer(const PurchaseModel& model, const mining::Histories& known, const Constraints& constraints);

  /// All products that may be offered to a customer, in order of product: not bought yet, or due again. Empty
  /// if the customer is not active. O(products).
  const std::vector<Offer>& score(std::uint32_t customer);
  /// Adds the best of them, best first: by expected value, then by product.
  void best(std::uint32_t customer, std::size_t most, std::vector<Offer>& into);

 private:
  /// The uplift of steps to a product.
  struct StepSum {
    double none = 1;     ///< the probability that no step triggers it
    double largest = 0;  ///< the largest uplift of a step
    std::optional<Offer::Trigger> trigger;
  };
  void gather(std::uint32_t group, std::span<const mining::HistoryEntry> history);
  void follow_steps(std::uint32_t group, std::int32_t last_day);
  void add(const CustomerState& now, std::uint32_t customer, std::uint32_t group, std::uint32_t product);

  const PurchaseModel& model_;
  const mining::Histories& known_;
  const Constraints& constraints_;
  double expected_items_ = 0;
  std::vector<std::int32_t> last_days_;  ///< by product of the customer's history
  std::vector<std::uint32_t> bought_;    ///< products of the history
  std::vector<StepSum> steps_;           ///< by product
  std::vector<std::uint32_t> category_counts_;
  std::vector<double> category_shares_;
  std::vector<Offer> offers_;
};

/// By expected value, then by customer and product.
[[nodiscard]] bool is_better(const Offer& a, const Offer& b);

}  // namespace pear::recommender
