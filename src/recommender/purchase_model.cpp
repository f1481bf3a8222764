#include "recommender/purchase_model.hpp"

#include <utility>

#include "recommender/rates/untriggered_rates.hpp"
#include "recommender/steps/pair_screening.hpp"
#include "recommender/steps/step_tests.hpp"
#include "recommender/steps/step_uplift.hpp"

namespace pear::recommender {

PurchaseModel fit_purchase_model(const daybook::Daybook& daybook, const mining::Histories& known,
                                 Landmarks landmarks, analysis::CustomerGroups groups, Categories categories,
                                 const analysis::Progress& progress) {
  std::uint64_t parts = 0;
  const auto tell = [&] {
    constexpr std::uint64_t kParts = 6;
    if (progress) progress(++parts, kParts);
  };
  const OrderRate rate_of_all = OrderRate::fit(known, landmarks, groups);
  const CategoryShares shares_of_all = CategoryShares::fit(known, groups, categories);
  const ScreenedPairs screened = ScreenedPairs::screen(known);
  tell();
  const Baseline of_all{known, landmarks, groups, categories, rate_of_all, shares_of_all};
  const std::vector<Step> steps = find_steps(of_all, screened);
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
  return {std::move(landmarks), std::move(groups), std::move(categories),
          std::move(rate),      std::move(shares), std::move(model),
          std::move(rates),     std::move(value),  screened.all_pairs()};
}

}  // namespace pear::recommender
