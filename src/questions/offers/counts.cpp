#include "questions/offers/counts.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>

#include <fmt/format.h>
#include <tbb/parallel_sort.h>
#include <xxhash.h>

#include "analysis/find_member.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/reasons.hpp"
#include "recommender/segment_choice.hpp"

namespace pear::offers {
namespace {

constexpr std::uint64_t kFitted = 85;  ///< hundredths of the time after which the model is fitted
constexpr std::size_t kListed = 10;    ///< offers to a single customer

/// Rounded to cents; in units of Decimal.
std::int64_t in_cents(double units) {
  constexpr std::int64_t kCent = Decimal::kScale / 100;
  return std::llround(units / kCent) * kCent;
}

std::uint64_t count_active(const mining::Histories& known, const std::vector<std::uint8_t>& planned,
                           Date as_of, std::int64_t active_days) {
  std::uint64_t active = 0;
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    const auto history = known.of(customer);
    const bool is_active = !history.empty() && as_of.days - history.back().day < active_days;
    if (planned[customer] != 0 && is_active) ++active;
  }
  return active;
}

OrError<recommender::OfferModel> fit_model(const analysis::QuestionInput& input, const Options& options,
                                           Date as_of, const mining::Histories& known,
                                           const std::vector<std::uint8_t>& planned) {
  auto landmarks = recommender::choose_landmarks(
      *input.population.first_date, as_of, static_cast<std::int32_t>(options.days_ahead()),
      static_cast<std::int32_t>(options.active), input.daybook.customers());
  if (!landmarks)
    return data_error(fmt::format("{} Use a smaller --horizon{}.", landmarks.error().message,
                                  options.as_of ? ", or a later --as-of" : ""));
  if (!options.customer && count_active(known, planned, as_of, options.active) == 0)
    return data_error(fmt::format(
        "none of the customers ordered within {} before {}, so nobody is active. Use a larger --active.",
        analysis::days_text(options.active), to_text(as_of)));
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(const analysis::CustomerGroups groups, recommender::choose_segments(options.per, lines, known));
  return recommender::fit_offer_model(input.daybook, known, *input.population.first_date, *landmarks, groups,
                                      recommender::categories_of(input.daybook),
                                      analysis::part_of(input.progress, 0, kFitted));
}

/// Whether a customer belongs to the control group: by a hash of the id, so that it is the same in every
/// plan.
bool is_in_control_group(std::string_view customer_id, double share) {
  constexpr std::uint64_t kParts = 1'000'000;
  return XXH3_64bits(customer_id.data(), customer_id.size()) % kParts <
         static_cast<std::uint64_t>(std::llround(share * kParts));
}

void separate_control_group(Counts& counts) {
  const auto is_contacted = [&](const recommender::Offer& offer) {
    return !counts.options.control ||
           !is_in_control_group(counts.input.daybook.customer_ids()[offer.customer], *counts.options.control);
  };
  const auto control = std::stable_partition(counts.offers.begin(), counts.offers.end(), is_contacted);
  counts.contacted = static_cast<std::size_t>(control - counts.offers.begin());
}

void sort_best_first(Counts& counts) {
  counts.best_first.resize(counts.offers.size());
  std::iota(counts.best_first.begin(), counts.best_first.end(), 0U);
  if (counts.options.customer) return;
  const auto is_before = [&](std::uint32_t a, std::uint32_t b) {
    return recommender::is_better(counts.offers[a], counts.offers[b]);
  };
  const auto control = counts.best_first.begin() + static_cast<std::ptrdiff_t>(counts.contacted);
  tbb::parallel_sort(counts.best_first.begin(), control, is_before);  // no two offers are equal
  tbb::parallel_sort(control, counts.best_first.end(), is_before);
}

/// Counts the customers who bought the same before, for the reasons of new products.
void count_similar(Counts& counts) {
  std::vector<recommender::PairRates::Pair> pairs;
  for (const recommender::Offer& offer : counts.offers)
    if (is_due_to_taste(counts, offer)) pairs.emplace_back(offer.similar, offer.product);
  counts.similar =
      recommender::PairRates::count(counts.known, counts.purchases().landmarks, std::move(pairs));
}

}  // namespace

std::int64_t Counts::expected_amount(const recommender::Offer& offer) const {
  return in_cents(offer.purchases *
                  purchases().value.amount(groups().group_of(offer.customer), offer.product));
}

std::int64_t Counts::expected_margin(const recommender::Offer& offer) const {
  return in_cents(offer.purchases *
                  purchases().value.margin(groups().group_of(offer.customer), offer.product));
}

OrError<std::uint32_t> customer_asked(const Counts& counts) {
  return analysis::find_one(counts.input.daybook, daybook::Level::customer, *counts.options.customer);
}

OrError<std::shared_ptr<const Counts>> count_offers(analysis::QuestionInput input, const Options& options) {
  PEAR_ASSIGN(const Date as_of, planning_day(input, options));
  PEAR_ASSIGN(recommender::Constraints constraints, constraints_of(input, options));
  expression::GroupKey products = analysis::id_key(input.daybook, daybook::Level::product);
  mining::Histories known = histories_until(input, products, as_of);
  std::vector<std::uint8_t> planned = planned_of(input);
  PEAR_ASSIGN(recommender::OfferModel model, fit_model(input, options, as_of, known, planned));
  const std::uint64_t active = count_active(known, planned, as_of, options.active);
  expression::GroupKey customers = analysis::id_key(input.daybook, daybook::Level::customer);
  const auto counts = std::make_shared<Counts>(Counts{std::move(input),
                                                      options,
                                                      as_of,
                                                      std::move(constraints),
                                                      std::move(planned),
                                                      std::move(products),
                                                      std::move(customers),
                                                      "product",
                                                      std::move(known),
                                                      active,
                                                      std::move(model),
                                                      {},
                                                      0,
                                                      {},
                                                      {}});
  if (options.customer) {
    PEAR_ASSIGN(const std::uint32_t customer, customer_asked(*counts));
    const recommender::Constraints& limits = counts->constraints;
    std::optional<recommender::Baselines> baselines;
    if (limits.method)
      baselines.emplace(counts->known, counts->groups(), counts->model.taste, limits.allowed, as_of);
    recommender::Scorer(counts->model, counts->known, limits, baselines ? &*baselines : nullptr)
        .best(customer, std::max(kListed, limits.per_customer), counts->offers);
  } else {
    counts->offers =
        recommender::make_plan(counts->model, counts->known, counts->constraints, counts->planned,
                               analysis::part_of(counts->input.progress, kFitted, 100));
  }
  separate_control_group(*counts);
  sort_best_first(*counts);
  count_similar(*counts);
  return counts;
}

}  // namespace pear::offers
