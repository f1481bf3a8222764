#include "question/offers.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "question/member_column.hpp"
#include "question/member_lookup.hpp"
#include "question/nouns.hpp"
#include "question/offer_groups.hpp"
#include "question/offer_test.hpp"
#include "question/offers_finding.hpp"
#include "question/selection.hpp"
#include "question/tree_option.hpp"

namespace pear {
namespace {

constexpr std::uint64_t kLearned = 85;  ///< hundredths of the time when all is learned

/// Counts the active ones among those who may be planned for.
std::uint64_t count_active(const OffersFinding& finding, const Histories& known) {
  std::uint64_t active = 0;
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    const auto history = known.of(customer);
    const bool is_active =
        !history.empty() && finding.as_of.days - history.back().day < finding.options.active;
    if (finding.planned[customer] != 0 && is_active) ++active;
  }
  return active;
}

void add_checks(const OffersFinding& finding, const Histories& known, Result& result) {
  bool are_new = true, are_allowed = true, are_in_stock = true, are_chances = true;
  std::vector<std::int64_t> offered(finding.products.distinct);
  for (const Offer& offer : finding.offers) {
    const auto history = known.of(offer.customer);
    const bool is_bought = std::any_of(history.begin(), history.end(), [&](const HistoryEntry& entry) {
      return entry.code == offer.product;
    });
    are_new = are_new && (!is_bought || offer.because_of == offer.product);
    are_allowed = are_allowed && finding.bounds.allowed[offer.product] != 0;
    are_chances = are_chances && offer.chance > 0 && offer.chance <= 1;
    ++offered[offer.product];
  }
  if (finding.bounds.stock)
    for (std::size_t product = 0; product < offered.size(); ++product)
      are_in_stock = are_in_stock && offered[product] <= (*finding.bounds.stock)[product];
  result.checks.push_back({"no product is offered to who has bought it, but for those due again", are_new});
  result.checks.push_back({"no product is offered that may not be", are_allowed && are_in_stock});
  result.checks.push_back({"every chance lies between 0 and 1", are_chances});
}

/// What the stock list leaves out, and what no sale knows.
void note_stock(const OffersFinding& finding, Result& result) {
  const auto gone = std::count(finding.bounds.stock->begin(), finding.bounds.stock->end(), 0);
  result.notes.push_back(fmt::format("Not in stock, or not on the stock list, and not offered: {}.",
                                     counted(static_cast<std::uint64_t>(gone), "product")));
  const SideTable& table = finding.asked.side_tables.at("stock");
  const std::size_t products = column_of(table, "product_id");
  const TextArray& ids = finding.asked.daybook.product_ids();
  std::vector<std::string> unknown;
  for (const auto& row : table.rows) {
    bool is_known = false;
    for (std::size_t id = 0; id < ids.size() && !is_known; ++id) is_known = ids[id] == row[products];
    if (!is_known) unknown.push_back(row[products]);
  }
  if (!unknown.empty())
    result.notes.push_back(fmt::format("{} of the stock list {} never sold: {}{}.",
                                       counted(unknown.size(), "product"),
                                       unknown.size() == 1 ? "was" : "were", in_quotes(unknown.front()),
                                       unknown.size() > 1 ? " and others" : ""));
}

void add_notes(const OffersFinding& finding, Result& result) {
  const OfferModel& model = *finding.model;
  const Lookback& lookback = model.lookback;
  std::string group = "all customers are one group";
  if (finding.groups.is_split())
    group = fmt::format(
        "groups by {}{}", finding.groups.noun(),
        finding.options.group ? "" : ", which tells most about what they buy (--group chooses another)");
  result.notes.push_back(fmt::format(
      "Learned from {} between {} and {}: {} of {} pairs of products follow one another more often than by "
      "chance; {}.",
      counted(lookback.days.size(), "earlier day"), to_text(Date{lookback.days.front()}),
      to_text(Date{lookback.days.back()}),
      with_thousands(static_cast<std::int64_t>(model.evidence.pairs_found())),
      with_thousands(static_cast<std::int64_t>(model.evidence.pairs_tested())), group));
  result.notes.push_back(
      lookback.season_day
          ? fmt::format("Season: a year before, customers bought {:.2f} times what is usual in these {}.",
                        model.items.season(), days_told(lookback.horizon))
          : fmt::format("The data is too short to tell what the season does to the next {}.",
                        days_told(lookback.horizon)));
  if (finding.bounds.stock) note_stock(finding, result);
}

Definitions definitions_of(const OffersFinding& finding) {
  return {{"as_of", to_text(finding.as_of)},
          {"horizon", days_told(finding.options.horizon)},
          {"active", fmt::format("last order less than {} before as_of", days_told(finding.options.active))},
          {"chance",
           "of at least one purchase within the horizon: 1 - (1 - anyway) x (1 - what a step adds) for each "
           "step"},
          {"rate",
           "of customers in the same position on earlier days, the share that bought it within the horizon"},
          {"step", "binomial tests, q values by Benjamini and Hochberg up to 0.05"}};
}

OrError<void> learn(OffersFinding& finding, const Histories& known) {
  const Asked& asked = finding.asked;
  const OffersOptions& options = finding.options;
  finding.planned = planned_of(asked);
  auto lookback =
      lookback_of(*asked.population.first_date, finding.as_of, static_cast<std::int32_t>(options.horizon),
                  static_cast<std::int32_t>(options.active), asked.daybook.customers());
  if (!lookback)
    return data_error(fmt::format("{} Take a smaller --horizon{}.", lookback.error().message,
                                  options.as_of ? ", or a later --as-of" : ""));
  finding.active = count_active(finding, known);
  if (finding.active == 0 && !options.customer)
    return data_error(
        fmt::format("none of the customers ordered within {} before {}, so nobody is active. Take a larger "
                    "--active.",
                    days_told(options.active), to_text(finding.as_of)));
  const LineView lines(asked.daybook, asked.grains);
  PEAR_ASSIGN(finding.groups, offer_groups(options.group, lines, known));
  const QuestionProgress learning = part_of(asked.progress, 0, kLearned);
  if (options.evidence == OffersOptions::Evidence::selection) {
    finding.model.emplace(asked.daybook, of_chosen(known, finding.planned), std::move(*lookback),
                          finding.groups, finding.shelves, learning);
  } else {
    finding.model.emplace(asked.daybook, known, std::move(*lookback), finding.groups, finding.shelves,
                          learning);
  }
  return {};
}

OrError<Result> ask_plan(Asked given, const OffersOptions& options) {
  const auto kept = std::make_shared<OffersFinding>(std::move(given), options);
  OffersFinding& finding = *kept;
  const Asked& asked = finding.asked;
  PEAR_ASSIGN(finding.as_of, planning_day(asked, options));
  PEAR_ASSIGN(finding.bounds, bounds_of(asked, options));
  const Histories known = histories_until(asked, finding.products, finding.as_of);
  PEAR_TRY(learn(finding, known));
  Result result;
  if (options.customer) {
    PEAR_ASSIGN(const std::uint32_t customer, find_one(asked.daybook, Level::customer, *options.customer));
    PEAR_ASSIGN(result, offers_of_one(kept, known, customer));
  } else {
    finding.offers = plan_offers(*finding.model, known, finding.bounds, finding.planned,
                                 part_of(asked.progress, kLearned, 100));
    result.headline = offers_headline(finding);
    result.tables = {offers_table(kept), offers_products_table(finding),
                     bundles_table(finding, find_bundles(finding))};
    result.figures = offers_figures(finding);
  }
  result.definitions = definitions_of(finding);
  add_checks(finding, known, result);
  add_notes(finding, result);
  note_choice(asked, result);
  return result;
}

}  // namespace

OrError<Result> ask_offers(Asked asked, const OffersOptions& options) {
  if (asked.population.orders == 0)
    return data_error("there is no purchase, only returns, so nothing is known of what customers buy.");
  auto result = options.test ? test_of_offers(asked, options) : ask_plan(std::move(asked), options);
  if (result) result->question = "offers";
  return result;
}

}  // namespace pear
