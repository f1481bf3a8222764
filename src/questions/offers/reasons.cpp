#include "questions/offers/reasons.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::offers {
namespace {

constexpr std::uint32_t kFewestOfGroup = 20;  ///< customers: with fewer, a rate says little

std::string ago(std::int32_t days) { return days == 0 ? "today" : analysis::days_text(days) + " ago"; }

recommender::RecencyState recency_of(const recommender::Offer& offer) {
  return recommender::RecencyState::of(offer.own_last_ago, offer.own_last_ago > offer.last_ago);
}

std::string times(std::uint32_t orders) {
  return orders == 1 ? "once" : orders == 2 ? "twice" : counted(orders, "time");
}

const recommender::Observed& observed_of_group(const Counts& counts, const recommender::Offer& offer) {
  const std::uint32_t group = counts.groups().group_of(offer.customer);
  const recommender::StepModel& steps = counts.purchases().steps;
  return offer.is_triggered() ? steps.observed(steps.cell(offer.trigger->cell), group)
                              : counts.purchases().rates.of_group(group, offer.product);
}

/// Whether the reason is about the customer's group: enough customers of it took the step, or buy the product
/// more often than all do. Repurchases are those of all customers.
bool is_of_group(const Counts& counts, const recommender::Offer& offer) {
  if (offer.is_repurchase) return false;
  const recommender::Observed& group = observed_of_group(counts, offer);
  return counts.groups().is_split() && group.customers >= kFewestOfGroup &&
         (offer.is_triggered() || group.rate() > counts.purchases().rates.of_all(offer.product).rate());
}

/// Whether the reason is about customers who bought the same product before.
bool is_of_similar(const Counts& counts, const recommender::Offer& offer) {
  if (!is_due_to_taste(counts, offer)) return false;
  const recommender::Observed& similar = counts.similar.of(offer.similar, offer.product);
  return similar.customers >= kFewestOfGroup &&
         similar.rate() > counts.purchases().rates.of_all(offer.product).rate();
}

/// "62 customers (region: North)"
std::string whom(const Counts& counts, const recommender::Offer& offer) {
  std::string text = counted(observed(counts, offer).customers, "customer");
  if (is_of_group(counts, offer))
    text += fmt::format(" ({}: {})", counts.groups().noun(),
                        counts.groups().label(counts.groups().group_of(offer.customer)));
  return text;
}

std::string similar_reason(const Counts& counts, const recommender::Offer& offer, const std::string& within) {
  const auto history = counts.known.of(offer.customer);
  const auto last = std::find_if(history.rbegin(), history.rend(), [&](const mining::HistoryEntry& entry) {
    return entry.code == offer.similar;
  });
  return fmt::format(
      "bought {} {}; of {} who had bought that and not this, {} bought this {}, {:.1f} times the share of "
      "all "
      "customers",
      counts.names().title(offer.similar), ago(counts.as_of.days - last->day),
      counted(observed(counts, offer).customers, "customer"),
      analysis::per_cent(observed(counts, offer).rate()), within, lift(counts, offer));
}

std::string untriggered_reason(const Counts& counts, const recommender::Offer& offer,
                               const std::string& within) {
  const std::string times_all =
      is_of_group(counts, offer)
          ? fmt::format(", {:.1f} times the share of all customers", lift(counts, offer))
          : "";
  return fmt::format("{} of {} who did not have it bought it {}{}; ordered {}, last {}",
                     analysis::per_cent(observed(counts, offer).rate()), whom(counts, offer), within,
                     times_all, times(offer.orders), ago(offer.last_ago));
}

/// "; usually 20 to 34 days after"
std::string usual_days(const recommender::StepTiming& timing) {
  if (timing.purchases == 0) return "";
  if (timing.days_p25 == timing.days_p75)
    return fmt::format("; usually {} after", analysis::days_text(timing.days_p25));
  return fmt::format("; usually {} to {} after", timing.days_p25, analysis::days_text(timing.days_p75));
}

/// "30 to 44 days before and nothing since"
std::string position_text(recommender::RecencyState recency) {
  return fmt::format("{} before and {} since", recommender::days_of_band(recency.band()),
                     recency.ordered_since() ? "had ordered" : "nothing");
}

/// ", every 31 days on average"
std::string own_interval(const recommender::Offer& offer) {
  if (offer.own_orders < 2 || offer.own_days == 0) return "";
  if (offer.own_orders == 2) return fmt::format(", {} apart", analysis::days_text(offer.own_days));
  const double mean = static_cast<double>(offer.own_days) / (offer.own_orders - 1);
  return fmt::format(", every {} on average", analysis::days_text(std::max(1L, std::lround(mean))));
}

std::string repurchase_reason(const Counts& counts, const recommender::Offer& offer,
                              const std::string& within) {
  const std::string bought = fmt::format("bought it {}{}, last {}", times(offer.own_orders),
                                         own_interval(offer), ago(offer.own_last_ago));
  const std::string usual = usual_days(counts.model.repurchases.timing(offer.product));
  if (observed(counts, offer).customers < kFewestOfGroup) return bought + usual;
  return fmt::format("{}; of {} who had bought it {}, {} bought it again {}{}", bought, whom(counts, offer),
                     position_text(recency_of(offer)), analysis::per_cent(observed(counts, offer).rate()),
                     within, usual);
}

std::string triggered_reason(const Counts& counts, const recommender::Offer& offer,
                             const std::string& within) {
  const recommender::Offer::Trigger& trigger = *offer.trigger;
  const recommender::RecencyState recency = counts.purchases().steps.cell(trigger.cell).recency;
  const recommender::StepTiming timing = counts.purchases().steps.timing(trigger.product, offer.product);
  const std::string rate = analysis::per_cent(observed(counts, offer).rate());
  const bool mostly_together = timing.together * 2 > timing.purchases;
  return fmt::format("bought {} {}; of {} who had bought that {}, {} bought this {}{}{}",
                     counts.names().title(trigger.product), ago(trigger.days_ago), whom(counts, offer),
                     position_text(recency), rate, within, usual_days(timing),
                     mostly_together ? ", mostly together with more of it" : "");
}

}  // namespace

bool is_due_to_taste(const Counts& counts, const recommender::Offer& offer) {
  constexpr double kLeast = 1.2;
  if (offer.is_repurchase || offer.is_triggered() || offer.similar == daybook::kNoMember) return false;
  const double of_taste = (offer.parts.usual + offer.parts.taste) / offer.parts.usual;
  const double of_group =
      observed_of_group(counts, offer).rate() / counts.purchases().rates.of_all(offer.product).rate();
  return of_taste >= kLeast && !(is_of_group(counts, offer) && of_group > of_taste);
}

const recommender::Observed& observed(const Counts& counts, const recommender::Offer& offer) {
  if (offer.is_repurchase) return counts.model.repurchases.of(offer.product, recency_of(offer));
  if (is_of_similar(counts, offer)) return counts.similar.of(offer.similar, offer.product);
  if (is_of_group(counts, offer)) return observed_of_group(counts, offer);
  return offer.is_triggered() ? counts.purchases().steps.cell(offer.trigger->cell).observed
                              : counts.purchases().rates.of_all(offer.product);
}

double lift(const Counts& counts, const recommender::Offer& offer) {
  const double of_all = counts.purchases().rates.of_all(offer.product).rate();
  return of_all > 0 ? observed(counts, offer).rate() / of_all : std::nan("");
}

std::pair<Date, Date> days_of(const Counts& counts) {
  return {{counts.as_of.days + 1}, {counts.as_of.days + counts.purchases().landmarks.horizon}};
}

std::pair<Date, Date> best_days(const Counts& counts, const recommender::Offer& offer) {
  const auto [first, last] = days_of(counts);
  if (!offer.is_triggered() && !offer.is_repurchase) return {first, last};
  const recommender::StepTiming timing =
      offer.is_repurchase ? counts.model.repurchases.timing(offer.product)
                          : counts.purchases().steps.timing(offer.trigger->product, offer.product);
  if (timing.purchases == 0) return {first, last};
  const std::int32_t bought =
      counts.as_of.days - (offer.is_repurchase ? offer.own_last_ago : offer.trigger->days_ago);
  const Date from{std::clamp(bought + timing.days_p25, first.days, last.days)},
      until{bought + timing.days_p75};
  return {from, until < from || until > last ? last : until};
}

std::string reason(const Counts& counts, const recommender::Offer& offer) {
  const std::string within =
      fmt::format("within {}", analysis::days_text(counts.purchases().landmarks.horizon));
  if (offer.is_repurchase) return repurchase_reason(counts, offer, within);
  if (is_of_similar(counts, offer)) return similar_reason(counts, offer, within);
  return offer.is_triggered() ? triggered_reason(counts, offer, within)
                              : untriggered_reason(counts, offer, within);
}

}  // namespace pear::offers
