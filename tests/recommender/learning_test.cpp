// What offers are fitted to: customers followed along steps, and their baseline purchases, compared with slow
// twins.
#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <set>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "recommender/known_shop.hpp"
#include "recommender/parallel_counting.hpp"
#include "recommender/steps/step_exposure.hpp"

namespace pear::test {
namespace {

/// Follows customers along one step as documented, one landmark after another.
class SlowFollower {
 public:
  SlowFollower(const Known& known, const recommender::FollowedStep& step) : known_(known), step_(step) {
    for (std::uint32_t customer = 0; customer < known.histories.customers(); ++customer) {
      customer_ = customer;
      for (std::size_t landmark = 0; landmark < known.landmarks.days.size(); ++landmark) look(landmark);
    }
  }

  struct Count {
    int exposures = 0, purchases = 0;
    std::set<std::uint32_t> customers;
    double expected = 0;
  };
  std::map<std::pair<std::uint32_t, recommender::RecencyState>, Count> counts;  ///< by group

 private:
  /// The last day up to this one on which a product, or anything, was bought.
  [[nodiscard]] std::int32_t last(std::optional<std::uint32_t> product, std::int32_t day) const {
    std::int32_t found = recommender::kNever;
    for (const mining::HistoryEntry& entry : known_.histories.of(customer_))
      if (entry.day <= day && (!product || entry.code == *product)) found = std::max(found, entry.day);
    return found;
  }
  [[nodiscard]] recommender::RecencyState recency(std::uint32_t product, std::int32_t day) const {
    return recommender::RecencyState::of(day - last(product, day), last({}, day) > last(product, day));
  }

  void look(std::size_t landmark) {
    const std::int32_t day = known_.landmarks.days[landmark];
    if (last({}, day) == recommender::kNever || day - last({}, day) >= known_.landmarks.active) return;
    if (last(step_.earlier, day) == recommender::kNever) return;
    if (step_.earlier != step_.later && last(step_.later, day) != recommender::kNever) return;
    std::uint32_t all = 0, of_category = 0;
    bool purchases = false;
    for (const mining::HistoryEntry& entry : known_.histories.of(customer_)) {
      if (entry.day <= day)
        ++all, of_category += entry.code % 2 == step_.later % 2 ? 1U : 0U;
      else
        purchases = purchases || (entry.code == step_.later && entry.day <= day + known_.landmarks.horizon);
    }
    const std::uint32_t group = customer_ % 2;
    double none = 1 - recommender::probability_of_any(
                          known_.items.at(customer_, landmark) *
                              known_.shares.of_category(group, step_.later % 2, of_category, all) *
                              known_.shares.of_product(group, step_.later),
                          known_.items.dispersion());
    for (const recommender::FollowedStep::Other& other : step_.others)
      if (last(other.earlier, day) != recommender::kNever)
        none *= 1 - (*other.uplift)[group][recency(other.earlier, day)];
    Count& count = counts[{group, recency(step_.earlier, day)}];
    ++count.exposures, count.purchases += purchases ? 1 : 0;
    count.customers.insert(customer_);
    count.expected += 1 - none;
  }

  const Known& known_;
  const recommender::FollowedStep& step_;
  std::uint32_t customer_ = 0;
};

std::vector<recommender::Uplift> random_uplift() {
  std::vector<recommender::Uplift> uplift(2);
  for (recommender::Uplift& group : uplift)
    for (const recommender::RecencyState state : recommender::RecencyState::all())
      group[state] = pick(0, 100) / 100.0;
  return uplift;
}

RC_GTEST_PROP(OfferLearning, CustomersAreFollowedAlongSteps, ()) {
  const Known known(random_histories(pick(1, 30), 6));
  const int products = static_cast<int>(known.histories.counts.size());
  const std::vector<recommender::Uplift> uplift = random_uplift();
  std::vector<recommender::FollowedStep> steps;
  for (int step = pick(1, 4); step > 0; --step) {
    const auto product = [&] { return static_cast<std::uint32_t>(pick(0, products - 1)); };
    steps.push_back({product(), product(), {}});
    for (int other = pick(0, 2); other > 0; --other) steps.back().others.push_back({product(), &uplift});
  }
  tbb::global_control threads(tbb::global_control::max_allowed_parallelism,
                              static_cast<std::size_t>(pick(1, 4)));
  const auto counts = recommender::count_exposures(known.base(), steps, {});
  for (std::size_t step = 0; step < steps.size(); ++step) {
    auto slow = SlowFollower(known, steps[step]).counts;
    for (std::uint32_t group = 0; group < 2; ++group)
      for (const recommender::RecencyState state : recommender::RecencyState::all()) {
        const recommender::RecencyCount& count = counts[step * 2 + group][state];
        const auto& wanted = slow[{group, state}];
        RC_ASSERT(count.observed.exposures == static_cast<std::uint32_t>(wanted.exposures));
        RC_ASSERT(count.observed.purchases == static_cast<std::uint32_t>(wanted.purchases));
        RC_ASSERT(count.observed.customers == wanted.customers.size());
        RC_ASSERT(std::abs(count.expected.value() - wanted.expected) < 1e-6);
      }
  }
}

RC_GTEST_PROP(OfferLearning, BlocksContainEachProductOnceAndAllItsBuyers, ()) {
  const mining::Histories histories = random_histories(pick(1, 20), pick(1, 30));
  const auto bytes = static_cast<std::size_t>(pick(1, 20)) << 20U;  // of 16 MB: one to all in a block
  std::uint32_t next = 0;
  for (const recommender::ProductBlock& block : recommender::blocks_of(histories, bytes)) {
    RC_ASSERT(block.begin == next && block.end > block.begin);
    RC_ASSERT(block.size() * bytes <= 16U << 20U || block.size() == 1);
    next = block.end;
    std::vector<std::uint32_t> buyers;
    for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
      const auto history = histories.of(customer);
      if (std::any_of(history.begin(), history.end(),
                      [&](const mining::HistoryEntry& entry) { return block.holds(entry.code); }))
        buyers.push_back(customer);
    }
    RC_ASSERT(block.customers == buyers);
  }
  RC_ASSERT(next == histories.counts.size());
}

/// By product: bought, or triggered by something bought, or neither.
RC_GTEST_PROP(OfferLearning, APurchaseTriggersProductsUntilTheyAreBought, ()) {
  constexpr int kProducts = 8;
  const auto product = [] { return static_cast<std::uint32_t>(pick(0, kProducts - 1)); };
  recommender::TriggeredProducts triggered(kProducts);
  for (int step = pick(0, 12); step > 0; --step) triggered[product()].push_back(product());
  recommender::TriggerWalk walk(triggered);
  for (int customer = pick(1, 3); customer > 0; --customer) {
    walk.begin();
    std::set<std::uint32_t> bought, ever_triggered;
    for (int purchase = pick(0, 10); purchase > 0; --purchase) {
      const std::uint32_t each = product();
      bought.insert(each);
      walk.buy(each);
    }
    for (const std::uint32_t earlier : bought)
      ever_triggered.insert(triggered[earlier].begin(), triggered[earlier].end());
    for (std::uint32_t each = 0; each < kProducts; ++each) {
      RC_ASSERT(walk.is_triggered(each) == (ever_triggered.contains(each) && !bought.contains(each)));
      RC_ASSERT(walk.is_open(each) == (!ever_triggered.contains(each) && !bought.contains(each)));
    }
  }
}

/// If no step triggers anything, nothing is left out; and expected purchases add up to the observed ones.
RC_GTEST_PROP(OfferLearning, ExpectedItemsAddUpToTheObservedOnes, ()) {
  const Known known(random_histories(40, 6));
  const recommender::TriggeredProducts none(known.histories.counts.size());
  const recommender::OrderRate::LeftOut left_out{known.categories, known.shares, none};
  const recommender::OrderRate without =
      recommender::OrderRate::fit(known.histories, known.landmarks, known.groups, &left_out);
  double expected = 0, seen = 0;
  for (std::uint32_t customer = 0; customer < known.histories.customers(); ++customer)
    recommender::for_each_landmark(
        known.histories.of(customer), known.landmarks, known.landmarks.days,
        [&](const recommender::CustomerState& now) {
          RC_ASSERT(without.at(customer, now.landmark) == known.items.at(customer, now.landmark));
          expected += known.items.at(customer, now.landmark), seen += now.seen - now.known;
        });
  RC_ASSERT(std::abs(expected - seen) <= 0.1 * seen);
}

}  // namespace
}  // namespace pear::test
