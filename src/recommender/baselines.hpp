// Baseline recommenders: simple ways to choose offers, with which the plan is compared.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "mining/purchase_histories.hpp"

namespace pear::recommender {

enum class BaselineMethod : std::uint8_t {
  best_sellers,        ///< what most customers bought
  group_best_sellers,  ///< what most customers of the group bought
  companions,  ///< the products most often in one order with the products of the customer's last order, then
               ///< what most customers bought
};
inline constexpr std::array kBaselineMethods = {
    BaselineMethod::best_sellers, BaselineMethod::group_best_sellers, BaselineMethod::companions};

/// Choose from the same products as the plan: allowed ones that the customer has not bought. Borrows its
/// inputs.
class Baselines {
 public:
  Baselines(const mining::Histories& known, const analysis::CustomerGroups& groups,
            const std::vector<std::uint8_t>& allowed);

  /// This many products for a customer, best first. Several threads may call it.
  void choose(BaselineMethod baseline, std::uint32_t customer, std::size_t most,
              std::vector<std::uint32_t>& into) const;

 private:
  struct Companion {
    std::uint32_t product = 0, orders = 0;
  };
  void count_companions();
  void take_in_order(std::span<const std::uint32_t> order, std::span<const mining::HistoryEntry> history,
                     std::size_t most, std::vector<std::uint32_t>& into) const;

  const mining::Histories& known_;
  const analysis::CustomerGroups& groups_;
  std::vector<std::uint32_t> best_;                     ///< allowed products, most bought first
  std::vector<std::vector<std::uint32_t>> group_best_;  ///< by group
  std::vector<std::uint8_t> allowed_;
  std::vector<std::vector<Companion>>
      companions_;  ///< by product, sorted by the number of orders with the other product
};

}  // namespace pear::recommender
