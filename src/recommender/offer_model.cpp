#include "recommender/offer_model.hpp"

#include <optional>
#include <utility>

#include <tbb/parallel_invoke.h>

namespace pear::recommender {
namespace {

/// A horizon apart. One day is not enough in a small shop, whose purchases are few.
std::int32_t earlier_days(std::uint32_t customers) {
  constexpr std::uint32_t kMany = 20'000;
  return customers > kMany ? 1 : 3;
}

/// What all fits have in common.
struct Inputs {
  const daybook::Daybook& daybook;
  const mining::Histories& known;  ///< of which the fits know a part
  Date first_day;
  const analysis::CustomerGroups& groups;
  const Categories& categories;
  KnownParts* parts;  ///< none if they are not kept
};

std::shared_ptr<const FittedParts> fit_parts(const Inputs& inputs, const mining::Histories& known,
                                             const Landmarks& landmarks, bool is_sample,
                                             const analysis::Progress& progress) {
  const auto fit = [&] {
    std::optional<PurchaseModel> purchases;
    std::optional<Taste> taste;
    tbb::parallel_invoke(
        [&] {
          purchases = fit_purchase_model(inputs.daybook, known, landmarks, inputs.groups, inputs.categories,
                                         progress);
        },
        [&] { taste = Taste::fit(known, landmarks, inputs.groups); });
    return FittedParts{std::move(*purchases), std::move(*taste)};
  };
  if (inputs.parts == nullptr || is_sample) return std::make_shared<const FittedParts>(fit());
  return inputs.parts->at(landmarks.as_of, inputs.groups, fit);
}

ObservedCandidates observe(const Inputs& inputs, const Landmarks& landmarks, const CustomerSample& sample,
                           const analysis::Progress& progress) {
  constexpr std::uint64_t kMostCandidates = 600'000;
  const std::int32_t days = earlier_days(inputs.daybook.customers());
  ObservedCandidates observed;
  for (std::int32_t i = 1; i <= days; ++i) {
    const Date day{landmarks.as_of.days - i * landmarks.horizon};
    const auto earlier = choose_landmarks(inputs.first_day, day, landmarks.horizon, landmarks.active,
                                          inputs.daybook.customers());
    if (!earlier) break;
    const mining::Histories known_then = known_by(inputs.known, day, sample);
    const auto parts = fit_parts(inputs, known_then, *earlier, !sample.is_all(), progress);
    observed.add(parts->purchases, parts->taste, known_then, inputs.known,
                 kMostCandidates / static_cast<std::uint64_t>(days));
  }
  return observed;
}

}  // namespace

OfferModel fit_offer_model(const daybook::Daybook& daybook, const mining::Histories& known, Date first_day,
                           const Landmarks& landmarks, const analysis::CustomerGroups& groups,
                           const Categories& categories, const analysis::Progress& progress,
                           KnownParts* parts) {
  constexpr std::uint32_t kMostCustomers = 50'000;  // enough for a few weights
  const CustomerSample sample = CustomerSample::of_about(kMostCustomers, daybook.customers());
  const Inputs inputs{daybook, known, first_day, groups, categories, sample.is_all() ? parts : nullptr};
  const auto fits = static_cast<std::uint64_t>(earlier_days(daybook.customers())) + 1;
  analysis::ParallelProgress finished(progress, fits * kPurchaseModelParts);
  const analysis::Progress advance = [&](std::uint64_t, std::uint64_t) { finished.advance(); };
  // Each of them has parts that use one thread only.
  std::optional<Blend> blend;
  std::optional<FittedParts> own;
  std::optional<RepurchaseRates> repurchases;
  tbb::parallel_invoke([&] { own = *fit_parts(inputs, known, landmarks, false, advance); },
                       [&] { blend = Blend::fit(observe(inputs, landmarks, sample, advance)); },
                       [&] { repurchases = RepurchaseRates::count(known, landmarks); });
  return {std::move(own->purchases), std::move(own->taste), std::move(*blend), std::move(*repurchases)};
}

}  // namespace pear::recommender
