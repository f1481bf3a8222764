#include "questions/offers/reasons.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::offers {
namespace {

constexpr std::uint32_t kFewestOfGroup =
    20;  ///< customers: with fewer, the rate hardly differs from that of all

std::string ago(std::int32_t days) { return days == 0 ? "today" : analysis::days_text(days) + " ago"; }

const recommender::Observed& observed_of_group(const Counts& counts, const recommender::Offer& offer) {
  const std::uint32_t group = counts.groups().group_of(offer.customer);
  const recommender::StepModel& steps = counts.model.steps;
  return offer.is_triggered() ? steps.observed(steps.cell(offer.trigger->cell), group)
                              : counts.model.rates.of_group(group, offer.product);
}

/// Whether the reason is about the customer's group: enough customers of it took the step, or buy the product
/// more often than all do.
bool is_of_group(const Counts& counts, const recommender::Offer& offer) {
  const recommender::Observed& group = observed_of_group(counts, offer);
  return counts.groups().is_split() && group.customers >= kFewestOfGroup &&
         (offer.is_triggered() || group.rate() > counts.model.rates.of_all(offer.product).rate());
}

/// "62 customers (region: North)"
std::string whom(const Counts& counts, const recommender::Offer& offer) {
  std::string text = counted(observed(counts, offer).customers, "customer");
  if (is_of_group(counts, offer))
    text += fmt::format(" ({}: {})", counts.groups().noun(),
                        counts.groups().label(counts.groups().group_of(offer.customer)));
  return text;
}

std::string untriggered_reason(const Counts& counts, const recommender::Offer& offer,
                               const std::string& within) {
  const std::string times_all =
      is_of_group(counts, offer)
          ? fmt::format(", {:.1f} times the share of all customers", lift(counts, offer))
          : "";
  return fmt::format("{} of {} who did not have it bought it {}{}; ordered {}, last {}",
                     analysis::per_cent(observed(counts, offer).rate()), whom(counts, offer), within,
                     times_all, offer.orders == 1 ? "once" : counted(offer.orders, "time"),
                     ago(offer.last_ago));
}

/// "; usually 20 to 34 days after"
std::string usual_days(const recommender::StepTiming& timing) {
  if (timing.purchases == 0) return "";
  if (timing.days_p25 == timing.days_p75)
    return fmt::format("; usually {} after", analysis::days_text(timing.days_p25));
  return fmt::format("; usually {} to {} after", timing.days_p25, analysis::days_text(timing.days_p75));
}

std::string triggered_reason(const Counts& counts, const recommender::Offer& offer,
                             const std::string& within) {
  const recommender::Offer::Trigger& trigger = *offer.trigger;
  const recommender::RecencyState recency = counts.model.steps.cell(trigger.cell).recency;
  const recommender::StepTiming timing = counts.model.steps.timing(trigger.product, offer.product);
  const std::string position =
      fmt::format("{} before and {} since", recommender::days_of_band(recency.band()),
                  recency.ordered_since() ? "had ordered" : "nothing");
  const std::string rate = analysis::per_cent(observed(counts, offer).rate());
  if (trigger.product == offer.product)
    return fmt::format("bought it {}; of {} who had bought it {}, {} bought it again {}{}",
                       ago(trigger.days_ago), whom(counts, offer), position, rate, within,
                       usual_days(timing));
  const bool mostly_together = timing.together * 2 > timing.purchases;
  return fmt::format("bought {} {}; of {} who had bought that {}, {} bought this {}{}{}",
                     counts.names().title(trigger.product), ago(trigger.days_ago), whom(counts, offer),
                     position, rate, within, usual_days(timing),
                     mostly_together ? ", mostly together with more of it" : "");
}

}  // namespace

const recommender::Observed& observed(const Counts& counts, const recommender::Offer& offer) {
  if (is_of_group(counts, offer)) return observed_of_group(counts, offer);
  return offer.is_triggered() ? counts.model.steps.cell(offer.trigger->cell).observed
                              : counts.model.rates.of_all(offer.product);
}

double lift(const Counts& counts, const recommender::Offer& offer) {
  return observed(counts, offer).rate() / counts.model.rates.of_all(offer.product).rate();
}

std::pair<Date, Date> best_days(const Counts& counts, const recommender::Offer& offer) {
  const Date first{counts.as_of.days + 1}, last{counts.as_of.days + counts.model.landmarks.horizon};
  if (!offer.is_triggered()) return {first, last};
  const recommender::StepTiming timing = counts.model.steps.timing(offer.trigger->product, offer.product);
  const std::int32_t bought = counts.as_of.days - offer.trigger->days_ago;
  const Date from{std::clamp(bought + timing.days_p25, first.days, last.days)},
      until{bought + timing.days_p75};
  return {from, until < from || until > last ? last : until};
}

std::string reason(const Counts& counts, const recommender::Offer& offer) {
  const std::string within = fmt::format("within {}", analysis::days_text(counts.model.landmarks.horizon));
  return offer.is_triggered() ? triggered_reason(counts, offer, within)
                              : untriggered_reason(counts, offer, within);
}

}  // namespace pear::offers
