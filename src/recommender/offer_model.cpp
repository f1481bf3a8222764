#include "recommender/offer_model.hpp"

#include <utility>

namespace pear::recommender {
namespace {

/// A horizon apart. One day is not enough in a small shop, whose purchases are few.
std::int32_t earlier_days(std::uint32_t customers) {
  constexpr std::uint32_t kMany = 20'000;
  return customers > kMany ? 1 : 3;
}

ObservedCandidates observe(const daybook::Daybook& daybook, const mining::Histories& known, Date first_day,
                           const Landmarks& landmarks, const analysis::CustomerGroups& groups,
                           const Categories& categories, const analysis::Progress& progress) {
  constexpr std::uint64_t kMostCandidates = 600'000;
  constexpr std::uint32_t kMostCustomers = 50'000;  // enough for a few weights
  const CustomerSample sample = CustomerSample::of_about(kMostCustomers, daybook.customers());
  const std::int32_t days = earlier_days(daybook.customers());
  ObservedCandidates observed;
  for (std::int32_t i = 1; i <= days; ++i) {
    const Date day{landmarks.as_of.days - i * landmarks.horizon};
    auto earlier = choose_landmarks(first_day, day, landmarks.horizon, landmarks.active, daybook.customers());
    if (!earlier) break;
    const mining::Histories known_then = known_by(known, day, sample);
    const Taste taste = Taste::fit(known_then, *earlier, groups);
    const PurchaseModel purchases = fit_purchase_model(
        daybook, known_then, std::move(*earlier), groups, categories,
        analysis::part_of(progress,
                          100 * static_cast<std::uint64_t>(i - 1) / static_cast<std::uint64_t>(days),
                          100 * static_cast<std::uint64_t>(i) / static_cast<std::uint64_t>(days)));
    observed.add(purchases, taste, known_then, known, kMostCandidates / static_cast<std::uint64_t>(days));
  }
  return observed;
}

}  // namespace

OfferModel fit_offer_model(const daybook::Daybook& daybook, const mining::Histories& known, Date first_day,
                           const Landmarks& landmarks, const analysis::CustomerGroups& groups,
                           const Categories& categories, const analysis::Progress& progress) {
  Blend blend = Blend::fit(
      observe(daybook, known, first_day, landmarks, groups, categories, analysis::part_of(progress, 0, 60)));
  return {
      fit_purchase_model(daybook, known, landmarks, groups, categories, analysis::part_of(progress, 60, 95)),
      Taste::fit(known, landmarks, groups), std::move(blend), RepurchaseRates::count(known, landmarks)};
}

}  // namespace pear::recommender
