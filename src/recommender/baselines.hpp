// Baseline recommenders: simple ways to choose offers, with which the plan is compared.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "base/date.hpp"
#include "mining/purchase_histories.hpp"
#include "recommender/blend/candidates.hpp"
#include "recommender/taste/shared_buyers.hpp"
#include "recommender/taste/taste.hpp"

namespace pear::recommender {

enum class BaselineMethod : std::uint8_t {
  // new products
  best_sellers,        ///< what most customers bought
  group_best_sellers,  ///< what most customers of the group bought
  companions,  ///< the products most often in one order with the products of the customer's last order, then
               ///< what most customers bought
  neighbours,  ///< the products whose buyers overlap most with those of the customer's products: sums of
               ///< cosines
  item_model,  ///< the largest sums of the weights of ItemWeights
  classes,     ///< the largest shares in what the customer's LatentClasses buy
  // repurchases: of the products that the customer bought
  own_best_sellers,  ///< what most customers bought
  own_frequency,     ///< in most orders of the customer
  recent_frequency,  ///< likewise, an order half a year earlier counting half
};
inline constexpr std::size_t kBaselineMethods = 9;
/// The baselines of a kind.
[[nodiscard]] std::span<const BaselineMethod> baselines_of(PurchaseKind kind);
/// How it is asked for: "best-sellers".
[[nodiscard]] std::string_view word_of(BaselineMethod baseline);
/// What tables call it: "best sellers". `segment` is what customers are grouped by; empty if they are not.
[[nodiscard]] std::string name_of(BaselineMethod baseline, const std::string& segment);

/// Choose among all allowed products of their kind: those that the customer has not bought, or those that the
/// customer has bought. Borrows its inputs.
class Baselines {
 public:
  Baselines(const mining::Histories& known, const analysis::CustomerGroups& groups, const Taste& taste,
            const std::vector<std::uint8_t>& allowed, Date as_of);

  /// This many products for a customer, best first. Several threads may call it.
  void choose(BaselineMethod baseline, std::uint32_t customer, std::size_t most,
              std::vector<std::uint32_t>& into) const;

 private:
  struct Companion {
    std::uint32_t product = 0, orders = 0;
  };
  void count_companions();
  void choose_by_taste(BaselineMethod baseline, std::uint32_t customer, std::size_t most,
                       std::vector<std::uint32_t>& into) const;
  void choose_own(BaselineMethod baseline, std::span<const mining::HistoryEntry> history, std::size_t most,
                  std::vector<std::uint32_t>& into) const;
  void take_in_order(std::span<const std::uint32_t> order, std::span<const mining::HistoryEntry> history,
                     std::size_t most, std::vector<std::uint32_t>& into) const;

  const mining::Histories& known_;
  const analysis::CustomerGroups& groups_;
  const Taste& taste_;
  SharedBuyers shared_;
  std::vector<std::uint32_t> best_;                     ///< allowed products, most bought first
  std::vector<std::vector<std::uint32_t>> group_best_;  ///< by group
  std::vector<std::uint8_t> allowed_;
  Date as_of_;
  std::vector<std::vector<Companion>>
      companions_;  ///< by product, sorted by the number of orders with the other product
};

}  // namespace pear::recommender
