#include "recommender/purchase_model.hpp"

#include <algorithm>
#include <utility>

#include "recommender/rates/untriggered_rates.hpp"
#include "recommender/steps/pair_screening.hpp"
#include "recommender/steps/step_tests.hpp"
#include "recommender/steps/step_uplift.hpp"

namespace pear::recommender {
namespace {

/// The steps that exist, and how many pairs were tested.
struct FoundSteps {
  std::vector<Step> steps;
  std::uint64_t tested = 0;
};

/// Those who decide which steps exist. The work grows with the square of the number of products that a
/// customer buys, and where it would be too much, an uplift that is worth an offer is found with fewer
/// customers, too.
CustomerSample customers_for_steps(const mining::Histories& histories) {
  constexpr std::uint64_t kEnoughCustomers = 100'000, kMostPairs = 60'000'000;
  std::uint64_t pairs = 0;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
    std::uint64_t products = 0;
    for (const mining::HistoryEntry& entry : histories.of(customer))
      products += entry.is_first != 0 ? 1U : 0U;
    pairs += products * products;
  }
  if (pairs <= kMostPairs) return {};
  return CustomerSample::of_about(std::max(kEnoughCustomers, histories.buyers * kMostPairs / pairs),
                                  histories.buyers);
}

FoundSteps find_steps_of(const Baseline& base) {
  const CustomerSample sample = customers_for_steps(base.histories);
  const mining::Histories sampled =
      sample.is_all() ? mining::Histories() : known_by(base.histories, base.landmarks.as_of, sample);
  const mining::Histories& histories = sample.is_all() ? base.histories : sampled;
  const ScreenedPairs screened = ScreenedPairs::screen(histories);
  const Baseline tested{histories, base.landmarks, base.groups, base.categories, base.rate, base.shares};
  return {find_steps(tested, screened), screened.all_pairs()};
}

}  // namespace

PurchaseModel fit_purchase_model(const daybook::Daybook& daybook, const mining::Histories& known,
                                 Landmarks landmarks, analysis::CustomerGroups groups, Categories categories,
                                 const analysis::Progress& progress) {
  std::uint64_t parts = 0;
  const auto tell = [&] {
    if (progress) progress(++parts, kPurchaseModelParts);
  };
  const OrderRate rate_of_all = OrderRate::fit(known, landmarks, groups);
  const CategoryShares shares_of_all = CategoryShares::fit(known, groups, categories);
  tell();
  const Baseline of_all{known, landmarks, groups, categories, rate_of_all, shares_of_all};
  const auto [steps, tested] = find_steps_of(of_all);
  tell();
  const TriggeredProducts triggered = triggered_by(steps, of_all.products());
  const OrderRate::LeftOut left_out{categories, shares_of_all, triggered};
  OrderRate rate = OrderRate::fit(known, landmarks, groups, &left_out);
  tell();
  CategoryShares shares = shares_of_all.scaled(
      untriggered_ratios({known, landmarks, groups, categories, rate, shares_of_all}, triggered));
  tell();
  const std::vector<FittedStep> fitted =
      fit_uplifts({known, landmarks, groups, categories, rate, shares}, steps);
  tell();
  StepModel model = StepModel::build(known, fitted, groups.count);
  PurchaseRates rates = PurchaseRates::count(known, landmarks, groups);
  PurchaseValue value(daybook, landmarks.as_of, groups);
  tell();
  return {std::move(landmarks), std::move(groups), std::move(categories), std::move(rate), std::move(shares),
          std::move(model),     std::move(rates),  std::move(value),      tested};
}

}  // namespace pear::recommender
