// The backtest at one cut: plans and baselines scored on what customers bought next.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include <tbb/enumerable_thread_specific.h>

#include "analysis/question_input.hpp"
#include "daybook/purchases.hpp"
#include "recommender/backtest.hpp"
#include "recommender/baselines.hpp"
#include "recommender/scorer.hpp"

namespace pear::recommender {

constexpr std::array<std::size_t, 3> kDepths = {1, 3, 5};
/// Narrow where most probabilities are.
constexpr std::array<double, 11> kProbabilityBounds = {0, 0.01, 0.02, 0.05, 0.1, 0.2, 0.3, 0.4, 0.6, 0.8, 1};
constexpr std::size_t kProbabilityGroups = kProbabilityBounds.size() - 1;
constexpr double kProbabilityUnits = 1e9;  ///< probabilities are added as integers, in any order

/// Sums for one group of customers: integers, so their order does not matter.
struct BacktestSums {
  struct Depth {
    std::int64_t offers = 0, hits = 0, found = 0;
    void add(const Depth& other, std::int64_t times);
  };
  using Depths = std::array<Depth, 3>;
  struct Probabilities {
    std::int64_t pairs = 0, bought = 0, stated = 0;
    void add(const Probabilities& other, std::int64_t times);
  };
  struct Kind {
    std::int64_t bought = 0;
    std::vector<Depths> methods;
    std::array<Probabilities, kProbabilityGroups> by_probability{};
    std::array<Probabilities, 3> by_purchases{};
  };
  std::int64_t customers = 0;
  std::array<Kind, 2> kinds;
  std::vector<Depths> plans;

  /// With room for the methods of these rules.
  explicit BacktestSums(const BacktestRules& rules);
  void add(const BacktestSums& other, std::int64_t times = 1);
};

/// One cut. Borrows its inputs.
class BacktestFold {
 public:
  BacktestFold(const analysis::QuestionInput& input, const mining::Histories& known, const OfferModel& model,
               const BacktestRules& rules);

  /// Adds to the sums of each group of customers: customer i belongs to group i modulo their number.
  void score(const std::vector<std::uint8_t>& planned, std::vector<BacktestSums>& into);

 private:
  /// A product that a customer bought within the horizon, and its value.
  struct Bought {
    std::uint32_t product = 0;
    std::int64_t found = 0;
    bool is_repurchase = false;
  };
  struct Own {  // of one thread
    Scorer by_probability, as_asked;
    std::vector<BacktestSums> sums;
    std::vector<Bought> bought;
    std::vector<Offer> offers;
    std::vector<std::uint32_t> products;
  };

  void find_thirds(const std::vector<std::uint8_t>& planned);
  void score(std::uint32_t customer, Own& own);
  void score_calibration(std::uint32_t customer, const std::vector<Offer>& candidates, const Own& own,
                         BacktestSums& sums) const;
  void score_plan(const std::vector<Offer>& candidates, std::size_t method, Own& own,
                  BacktestSums& sums) const;
  static void score_products(const Own& own, BacktestSums::Depths& depths);
  static const Bought* what_of(std::uint32_t product, const std::vector<Bought>& bought);
  void find_bought(std::uint32_t customer, std::vector<Bought>& bought) const;

  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  const mining::Histories& known_;
  const OfferModel& model_;
  const BacktestRules& rules_;
  Constraints by_probability_;
  Baselines baselines_;
  std::array<std::size_t, 2> thirds_{};  ///< the purchases up to which a customer belongs to a third
  std::span<const std::int64_t> margins_;
  std::size_t groups_ = 1;
};

}  // namespace pear::recommender
