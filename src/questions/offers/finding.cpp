// What offers says: reasons, headline and figures of the plan.
#include "questions/offers/finding.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::offers {
namespace {

std::string share(double value) { return fmt::format("{:.1f}%", 100 * value); }

/// What is expected is told to two places; in units of Decimal.
std::int64_t in_cents(double units) {
  constexpr std::int64_t kCent = Decimal::kScale / 100;
  return std::llround(units / kCent) * kCent;
}

std::string ago(std::int32_t days) { return days == 0 ? "today" : analysis::days_text(days) + " ago"; }

/// What offers of one product come to.
struct ProductSum {
  std::uint32_t product = 0;
  std::uint64_t customers = 0;
  std::int64_t value = 0;
};

std::vector<ProductSum> sums_by_product(const Finding& finding) {
  std::vector<ProductSum> sums(finding.products.distinct);
  for (const recommender::Offer& offer : finding.offers) {
    sums[offer.product].product = offer.product;
    ++sums[offer.product].customers;
    sums[offer.product].value += finding.expected_value(offer);
  }
  std::erase_if(sums, [](const ProductSum& sum) { return sum.customers == 0; });
  std::stable_sort(sums.begin(), sums.end(),
                   [](const ProductSum& a, const ProductSum& b) { return a.value > b.value; });
  return sums;
}

std::string most_sentence(const Finding& finding, const ProductSum& most) {
  return fmt::format("{}: {} {} expected of offers to {}", finding.names().title(most.product),
                     finding.money(most.value), finding.has_margins() ? "margin" : "sales",
                     counted(most.customers, "customer"));
}

}  // namespace

Finding::Finding(analysis::QuestionInput asked_, Options options_)
    : asked(std::move(asked_)),
      options(std::move(options_)),
      products(analysis::id_key(asked.daybook, daybook::Level::product)),
      customers(analysis::id_key(asked.daybook, daybook::Level::customer)),
      shelves(recommender::categories_of(asked.daybook)) {}

std::int64_t Finding::expected_amount(const recommender::Offer& offer) const {
  return in_cents(offer.chance * model->worth.amount(groups.group_of(offer.customer), offer.product));
}

std::int64_t Finding::expected_margin(const recommender::Offer& offer) const {
  return in_cents(offer.chance * model->worth.margin(groups.group_of(offer.customer), offer.product));
}

bool Finding::tells_of_group(const recommender::Offer& offer) const {
  constexpr std::uint32_t kFewest = 20;
  const recommender::Observed& group = seen_of_group(offer);
  return groups.is_split() && group.customers >= kFewest &&
         (offer.is_by_step() || group.rate() > model->evidence.of_all(offer.product).rate());
}

const recommender::Observed& Finding::seen_of_group(const recommender::Offer& offer) const {
  const std::uint32_t group = groups.group_of(offer.customer);
  return offer.is_by_step() ? model->evidence.seen(model->evidence.cell(offer.step), group)
                            : model->evidence.of_group(group, offer.product);
}

const recommender::Observed& Finding::seen(const recommender::Offer& offer) const {
  if (tells_of_group(offer)) return seen_of_group(offer);
  return offer.is_by_step() ? model->evidence.cell(offer.step).seen : model->evidence.of_all(offer.product);
}

double Finding::lift(const recommender::Offer& offer) const {
  return seen(offer).rate() / model->evidence.of_all(offer.product).rate();
}

std::pair<Date, Date> Finding::best_days(const recommender::Offer& offer) const {
  const Date first{as_of.days + 1}, last{as_of.days + model->lookback.horizon};
  if (!offer.is_by_step()) return {first, last};
  const recommender::StepTimes& times = model->evidence.times(offer.because_of, offer.product);
  const std::int32_t bought = as_of.days - offer.days_ago;
  const Date from{std::clamp(bought + times.days_p25, first.days, last.days)}, until{bought + times.days_p75};
  return {from, until < from || until > last ? last : until};
}

std::string Finding::reason(const recommender::Offer& offer) const {
  const recommender::Observed& who = seen(offer);
  const std::string within = fmt::format("within {}", analysis::days_text(model->lookback.horizon));
  const bool of_group = tells_of_group(offer);
  const std::string whom =
      counted(who.customers, "customer") +
      (of_group ? fmt::format(" ({}: {})", groups.noun(), groups.label(groups.group_of(offer.customer)))
                : "");
  if (!offer.is_by_step()) {
    return fmt::format("{} of {} without it bought it {}{}; ordered {}, last {}", share(who.rate()), whom,
                       within, of_group ? fmt::format(", {:.1f} times the share of all", lift(offer)) : "",
                       offer.orders == 1 ? "once" : counted(offer.orders, "time"), ago(offer.last_ago));
  }
  const recommender::StepTimes& times = model->evidence.times(offer.because_of, offer.product);
  const std::size_t place = model->evidence.cell(offer.step).standing;
  const std::string standing = fmt::format("{} before, and {} since", recommender::days_of_standing(place),
                                           recommender::has_ordered_since(place) ? "had ordered" : "nothing");
  const std::string usually =
      times.purchases == 0 ? ""
      : times.days_p25 == times.days_p75
          ? fmt::format("; usually {} after", analysis::days_text(times.days_p25))
          : fmt::format("; usually {} to {} after", times.days_p25, analysis::days_text(times.days_p75));
  if (offer.because_of == offer.product)
    return fmt::format("bought it {}; of {} who had bought it {}, {} bought it again {}{}",
                       ago(offer.days_ago), whom, standing, share(who.rate()), within, usually);
  const bool mostly_together = times.together * 2 > times.purchases;
  return fmt::format("bought {} {}; of {} who had bought that {}, {} bought this {}{}{}",
                     names().title(offer.because_of), ago(offer.days_ago), whom, standing, share(who.rate()),
                     within, usually, mostly_together ? ", mostly together with more of it" : "");
}

std::string Finding::money(std::int64_t units) const {
  const std::string text = with_thousands(Decimal::from_units(units), 2);
  return asked.currency.empty() ? text : text + " " + asked.currency;
}

std::vector<std::string> headline_of(const Finding& finding) {
  std::uint64_t customers = 0;
  std::int64_t value = 0;
  double purchases = 0;
  const recommender::Offer* clearest =
      nullptr;  // the likeliest, before all others one for which a purchase speaks
  for (std::size_t i = 0; i < finding.offers.size(); ++i) {
    const recommender::Offer& offer = finding.offers[i];
    customers += i == 0 || finding.offers[i - 1].customer != offer.customer ? 1U : 0U;
    value += finding.expected_value(offer);
    purchases += offer.chance;
    if (clearest == nullptr ||
        std::pair(offer.is_by_step(), offer.chance) > std::pair(clearest->is_by_step(), clearest->chance))
      clearest = &offer;
  }
  if (clearest == nullptr)
    return {
        fmt::format("No offers: of {} nobody has a chance of {} or more to buy a product that brings "
                    "something.",
                    counted(finding.active, "active customer"), share(finding.bounds.least_chance))};
  const std::string brings = finding.has_margins() ? "margin" : "sales";
  return {fmt::format("{} to {} of {}: {} purchases and {} {} expected within {}.",
                      counted(finding.offers.size(), "offer"), analysis::number(customers),
                      counted(finding.active, "active customer"),
                      analysis::number(static_cast<std::uint64_t>(std::llround(purchases))),
                      finding.money(value), brings, analysis::days_text(finding.model->lookback.horizon)),
          fmt::format("Clearest: {} for {}, chance {}: {}.", finding.names().title(clearest->product),
                      analysis::label_with_name(finding.asked.daybook, finding.customers, clearest->customer),
                      share(clearest->chance), finding.reason(*clearest)),
          fmt::format("Most is expected of {}.", most_sentence(finding, sums_by_product(finding).front()))};
}

std::vector<result::Figure> figures_of(const Finding& finding) {
  constexpr std::size_t kBars = 12;
  std::vector<ProductSum> sums = sums_by_product(finding);
  if (sums.empty()) return {};
  result::Figure figure;
  figure.kind = result::Figure::Kind::ranked_bars;
  figure.title = most_sentence(finding, sums.front());
  figure.subtitle =
      fmt::format("{} expected within {} of offers made on {}, by product{}; {}",
                  finding.has_margins() ? "Margin" : "Sales",
                  analysis::days_text(finding.model->lookback.horizon), to_text(Date{finding.as_of.days + 1}),
                  sums.size() > kBars ? fmt::format(", the first {} of {}", kBars, sums.size()) : "",
                  counted(finding.offers.size(), "offer"));
  sums.resize(std::min(sums.size(), kBars));
  TextArray labels;
  std::vector<std::int64_t> values;
  for (const ProductSum& sum : sums)
    labels.push_back(finding.names().title(sum.product)), values.push_back(sum.value);
  figure.marks.columns = {
      result::text_column("product", "What is offered.", std::move(labels)),
      result::integer_column("expected", result::Unit::money, "What is expected.", std::move(values))};
  figure.noticed = {0};
  return {figure};
}

}  // namespace pear::offers
