// What offers learn from: customers followed along steps, and what they order anyway, against slow twins.
#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <tbb/global_control.h>

#include "analysis/member_column.hpp"
#include "base/date.hpp"
#include "recommender/parallel_counting.hpp"
#include "recommender/step_exposure.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

constexpr int kOpening = 19'000, kOpenDays = 500;

mining::Histories random_histories(int customers, int products) {
  Sales sales;
  for (int customer = 0; customer < customers; ++customer)
    for (int order = pick(1, 8); order > 0; --order) {
      const int day = kOpening + pick(0, kOpenDays);
      for (int line = pick(1, 3); line > 0; --line)
        sales.push_back({fmt::format("A{}-{}", customer, day), to_text(Date{day}),
                         fmt::format("C{}", customer), fmt::format("P{}", pick(1, products)), 1, 100});
    }
  const daybook::Daybook daybook = build(sales).daybook;
  mining::SequenceRule rule;
  rule.repeats = mining::Repeats::all;
  return mining::gather_histories(daybook, analysis::id_key(daybook, daybook::Level::product), rule);
}

/// All that is known of a random shop before its steps.
struct Known {
  mining::Histories histories;
  recommender::Landmarks lookback;
  analysis::CustomerGroups groups;
  recommender::Categories shelves;
  recommender::OrderRate items;
  recommender::CategoryShares shares;

  explicit Known(mining::Histories given)
      : histories(std::move(given)),
        lookback(*recommender::choose_landmarks(Date{kOpening}, Date{kOpening + kOpenDays}, pick(20, 90), 365,
                                                histories.customers())),
        groups(two_groups(histories.customers())),
        shelves(two_shelves(histories.counts.size())),
        items(histories, lookback, groups),
        shares(histories, groups, shelves) {}

  [[nodiscard]] recommender::Baseline base() const {
    return {histories, lookback, groups, shelves, items, shares};
  }

  static analysis::CustomerGroups two_groups(std::uint32_t customers) {
    analysis::CustomerGroups groups;
    groups.count = 2;
    for (std::uint32_t customer = 0; customer < customers; ++customer)
      groups.of_customer.push_back(customer % 2);
    return groups;
  }
  static recommender::Categories two_shelves(std::size_t products) {
    recommender::Categories shelves{2, {}};
    for (std::uint32_t product = 0; product < products; ++product) shelves.of_product.push_back(product % 2);
    return shelves;
  }
};

/// Follows customers along one step as it is described, one landmark after another.
class SlowFollower {
 public:
  SlowFollower(const Known& known, const recommender::FollowedStep& step) : known_(known), step_(step) {
    for (std::uint32_t customer = 0; customer < known.histories.customers(); ++customer) {
      customer_ = customer;
      for (std::size_t landmark = 0; landmark < known.lookback.days.size(); ++landmark) look(landmark);
    }
  }

  struct Count {
    int cases = 0, buys = 0;
    std::set<std::uint32_t> customers;
    double expected = 0;
  };
  std::map<std::pair<std::uint32_t, std::size_t>, Count> counts;  ///< by group and standing

 private:
  /// The last day up to this one on which a product, or anything, was bought.
  [[nodiscard]] std::int32_t last(std::optional<std::uint32_t> product, std::int32_t day) const {
    std::int32_t found = recommender::kNever;
    for (const mining::HistoryEntry& entry : known_.histories.of(customer_))
      if (entry.day <= day && (!product || entry.code == *product)) found = std::max(found, entry.day);
    return found;
  }
  [[nodiscard]] std::size_t standing(std::uint32_t product, std::int32_t day) const {
    return recommender::standing_of(day - last(product, day), last({}, day) > last(product, day));
  }

  void look(std::size_t landmark) {
    const std::int32_t day = known_.lookback.days[landmark];
    if (last({}, day) == recommender::kNever || day - last({}, day) >= known_.lookback.active) return;
    if (last(step_.earlier, day) == recommender::kNever) return;
    if (step_.earlier != step_.later && last(step_.later, day) != recommender::kNever) return;
    std::uint32_t all = 0, of_shelf = 0;
    bool buys = false;
    for (const mining::HistoryEntry& entry : known_.histories.of(customer_)) {
      if (entry.day <= day)
        ++all, of_shelf += entry.code % 2 == step_.later % 2 ? 1U : 0U;
      else
        buys = buys || (entry.code == step_.later && entry.day <= day + known_.lookback.horizon);
    }
    const std::uint32_t group = customer_ % 2;
    double none = 1 - recommender::probability_of_any(
                          known_.items.at(customer_, landmark) *
                              known_.shares.of_shelf(group, step_.later % 2, of_shelf, all) *
                              known_.shares.of_product(group, step_.later),
                          known_.items.dispersion());
    for (const recommender::FollowedStep::Other& other : step_.others)
      if (last(other.earlier, day) != recommender::kNever)
        none *= 1 - (*other.excess)[group][standing(other.earlier, day)];
    Count& count = counts[{group, standing(step_.earlier, day)}];
    ++count.cases, count.buys += buys ? 1 : 0;
    count.customers.insert(customer_);
    count.expected += 1 - none;
  }

  const Known& known_;
  const recommender::FollowedStep& step_;
  std::uint32_t customer_ = 0;
};

std::vector<recommender::Uplift> random_excess() {
  std::vector<recommender::Uplift> excess(2);
  for (recommender::Uplift& group : excess)
    for (double& each : group) each = pick(0, 100) / 100.0;
  return excess;
}

RC_GTEST_PROP(OfferLearning, CustomersAreFollowedAlongSteps, ()) {
  const Known known(random_histories(pick(1, 30), 6));
  const int products = static_cast<int>(known.histories.counts.size());
  const std::vector<recommender::Uplift> excess = random_excess();
  std::vector<recommender::FollowedStep> steps;
  for (int step = pick(1, 4); step > 0; --step) {
    const auto product = [&] { return static_cast<std::uint32_t>(pick(0, products - 1)); };
    steps.push_back({product(), product(), {}});
    for (int other = pick(0, 2); other > 0; --other) steps.back().others.push_back({product(), &excess});
  }
  tbb::global_control threads(tbb::global_control::max_allowed_parallelism,
                              static_cast<std::size_t>(pick(1, 4)));
  const auto counts = recommender::count_exposures(known.base(), steps, 1);
  for (std::size_t step = 0; step < steps.size(); ++step) {
    auto slow = SlowFollower(known, steps[step]).counts;
    for (std::uint32_t group = 0; group < 2; ++group)
      for (std::size_t standing = 0; standing < recommender::kStandings; ++standing) {
        const recommender::RecencyCount& count =
            counts[(step * 2 + group) * recommender::kStandings + standing];
        const auto& wanted = slow[{group, standing}];
        RC_ASSERT(count.seen.cases == static_cast<std::uint32_t>(wanted.cases));
        RC_ASSERT(count.seen.buys == static_cast<std::uint32_t>(wanted.buys));
        RC_ASSERT(count.seen.customers == wanted.customers.size());
        RC_ASSERT(std::abs(count.expected.value() - wanted.expected) < 1e-6);
      }
  }
}

RC_GTEST_PROP(OfferLearning, BlocksHoldEachProductOnceAndAllItsBuyers, ()) {
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

/// By product: bought, or led to by something bought, or neither.
RC_GTEST_PROP(OfferLearning, WhoBoughtIsLedToWhatFollowsUntilTheyBuyIt, ()) {
  constexpr int kProducts = 8;
  const auto product = [] { return static_cast<std::uint32_t>(pick(0, kProducts - 1)); };
  recommender::TriggeredProducts led_to(kProducts);
  for (int step = pick(0, 12); step > 0; --step) led_to[product()].push_back(product());
  recommender::TriggerWalk walk(led_to);
  for (int customer = pick(1, 3); customer > 0; --customer) {
    walk.begin();
    std::set<std::uint32_t> bought, reached;
    for (int purchase = pick(0, 10); purchase > 0; --purchase) {
      const std::uint32_t each = product();
      bought.insert(each);
      walk.buy(each);
    }
    for (const std::uint32_t earlier : bought) reached.insert(led_to[earlier].begin(), led_to[earlier].end());
    for (std::uint32_t each = 0; each < kProducts; ++each) {
      RC_ASSERT(walk.is_led(each) == (reached.contains(each) && !bought.contains(each)));
      RC_ASSERT(walk.is_open(each) == (!reached.contains(each) && !bought.contains(each)));
    }
  }
}

/// Where no step leads to anything, what is left is all; and what is expected adds up to what was seen.
RC_GTEST_PROP(OfferLearning, ItemsThatAreExpectedAreThoseThatWereSeen, ()) {
  const Known known(random_histories(40, 6));
  recommender::OrderRate without = known.items;
  without.leave_out(known.histories, known.lookback, known.groups, known.shelves, known.shares,
                    recommender::TriggeredProducts(known.histories.counts.size()));
  double expected = 0, seen = 0;
  for (std::uint32_t customer = 0; customer < known.histories.customers(); ++customer)
    recommender::for_each_landmark(
        known.histories.of(customer), known.lookback, known.lookback.days,
        [&](const recommender::CustomerState& now) {
          RC_ASSERT(without.at(customer, now.landmark) == known.items.at(customer, now.landmark));
          expected += known.items.at(customer, now.landmark), seen += now.seen - now.known;
        });
  RC_ASSERT(std::abs(expected - seen) <= 0.1 * seen);
}

}  // namespace
}  // namespace pear::test
