// Whom to offer what: chances worked out, offers ranked and kept within bounds.
#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <vector>

#include "analysis/question_input.hpp"
#include "recommender/category_shares.hpp"
#include "recommender/order_rate.hpp"
#include "recommender/purchase_model.hpp"
#include "recommender/purchase_value.hpp"

namespace pear::recommender {

/// What was learned of the sales up to a day.
struct PurchaseModel {
  Landmarks lookback;
  const analysis::CustomerGroups& groups;
  const Categories& shelves;
  OrderRate items;
  CategoryShares shares;
  StepModel evidence;
  PurchaseValue worth;

  /// `known` are the histories up to as_of that evidence is taken from. Of the daybook only sales up to
  /// as_of are looked at.
  PurchaseModel(const daybook::Daybook& daybook, const mining::Histories& known, Landmarks lookback_,
                const analysis::CustomerGroups& groups_, const Categories& shelves_,
                const analysis::Progress& progress = {})
      : lookback(std::move(lookback_)),
        groups(groups_),
        shelves(shelves_),
        items(known, lookback, groups),
        shares(known, groups, shelves),
        evidence(known, lookback, groups, shelves, items, shares, progress),
        worth(daybook, lookback.as_of, groups) {}
};

/// One product for one customer.
struct Offer {
  static constexpr std::uint32_t kNoStep = std::numeric_limits<std::uint32_t>::max();
  std::uint32_t customer = 0, product = 0;
  double chance = 0;    ///< of buying it within the horizon
  double anyway = 0;    ///< the same without the step
  double expected = 0;  ///< what offers are ranked by: chance, or chance times what a purchase brings
  std::uint32_t step = kNoStep;        ///< the cell of evidence that makes it likelier, where there is one
  std::uint32_t because_of = kNoStep;  ///< the product bought before that the step begins with
  std::int32_t days_ago = 0;           ///< since that was bought last
  std::uint32_t orders = 0;            ///< of the customer so far
  std::int32_t last_ago = 0;           ///< days since the last of them

  /// Whether the step tells more than what the customer buys anyway. What was bought before is due again
  /// only then.
  [[nodiscard]] bool is_by_step() const { return step != kNoStep && (chance - anyway) > anyway; }
};

enum class RankBy : std::uint8_t { margin, chance, amount };

struct Constraints {
  std::size_t per_customer = 3;
  double least_chance = 0;
  RankBy rank_by = RankBy::margin;
  std::vector<std::uint8_t> allowed;               ///< by product
  std::optional<std::vector<std::int64_t>> stock;  ///< by product, pieces
  std::optional<std::size_t> budget;               ///< customers
};

/// Works out the chances of one customer after another. One for each thread. Borrows all.
class Scorer {
 public:
  Scorer(const PurchaseModel& model, const mining::Histories& known, const Constraints& bounds);

  /// All products that may be offered to a customer, in order of product: not bought yet, or due again.
  /// Nothing where the customer is not active.
  const std::vector<Offer>& score(std::uint32_t customer);
  /// The best of them, best first: by what is expected, then by product.
  void best(std::uint32_t customer, std::size_t most, std::vector<Offer>& into);

 private:
  void gather(std::uint32_t group, std::span<const mining::HistoryEntry> history);
  void find_steps(std::uint32_t group, std::int32_t last_day);
  void add(const CustomerState& now, std::uint32_t customer, std::uint32_t group, std::uint32_t product);

  struct Step {
    double none = 1;    ///< the chance that no step leads to it
    double excess = 0;  ///< of the step that adds most, and which that is
    std::uint32_t cell = Offer::kNoStep, because_of = Offer::kNoStep;
    std::int32_t days_ago = 0;
  };

  const PurchaseModel& model_;
  const mining::Histories& known_;
  const Constraints& bounds_;
  double expected_items_ = 0;
  std::vector<std::int32_t> last_days_;  ///< by product of the customer's history
  std::vector<std::uint32_t> bought_;    ///< products of the history
  std::vector<Step> steps_;              ///< by product
  std::vector<std::uint32_t> shelf_counts_;
  std::vector<double> shelf_shares_;
  std::vector<Offer> offers_;
};

/// Offers by customer, best first. `planned` has 1 for customers to plan for. With a budget, the customers of
/// whom most is expected; with stock, the best offers get the pieces there are, and the next best products
/// come in for those that are gone. The same for any number of threads.
[[nodiscard]] std::vector<Offer> make_plan(const PurchaseModel& model, const mining::Histories& known,
                                           const Constraints& bounds,
                                           const std::vector<std::uint8_t>& planned,
                                           const analysis::Progress& progress = {});

}  // namespace pear::recommender
