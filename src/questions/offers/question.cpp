#include "questions/offers/question.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/expression_option.hpp"
#include "analysis/find_member.hpp"
#include "analysis/member_column.hpp"
#include "analysis/selection.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "questions/offers/finding.hpp"
#include "recommender/backtest.hpp"
#include "recommender/segment_choice.hpp"

namespace pear::offers {
namespace {

constexpr std::uint64_t kLearned = 85;  ///< hundredths of the time when all is learned

/// Counts the active ones among those who may be planned for.
std::uint64_t count_active(const Finding& finding, const mining::Histories& known) {
  std::uint64_t active = 0;
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    const auto history = known.of(customer);
    const bool is_active =
        !history.empty() && finding.as_of.days - history.back().day < finding.options.active;
    if (finding.planned[customer] != 0 && is_active) ++active;
  }
  return active;
}

void add_checks(const Finding& finding, const mining::Histories& known, result::Result& result) {
  bool are_new = true, are_allowed = true, are_in_stock = true, are_chances = true;
  std::vector<std::int64_t> offered(finding.products.distinct);
  for (const recommender::Offer& offer : finding.offers) {
    const auto history = known.of(offer.customer);
    const bool is_bought =
        std::any_of(history.begin(), history.end(),
                    [&](const mining::HistoryEntry& entry) { return entry.code == offer.product; });
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
void note_stock(const Finding& finding, result::Result& result) {
  const auto gone = std::count(finding.bounds.stock->begin(), finding.bounds.stock->end(), 0);
  result.notes.push_back(fmt::format("Not in stock, or not on the stock list, and not offered: {}.",
                                     counted(static_cast<std::uint64_t>(gone), "product")));
  const analysis::SideTable& table = finding.asked.side_tables.at("stock");
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

void add_notes(const Finding& finding, result::Result& result) {
  const recommender::PurchaseModel& model = *finding.model;
  const recommender::Landmarks& lookback = model.lookback;
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
                        model.items.season(), analysis::days_text(lookback.horizon))
          : fmt::format("The data is too short to tell what the season does to the next {}.",
                        analysis::days_text(lookback.horizon)));
  if (finding.bounds.stock) note_stock(finding, result);
}

result::Definitions definitions_of(const Finding& finding) {
  return {{"as_of", to_text(finding.as_of)},
          {"horizon", analysis::days_text(finding.options.horizon)},
          {"active",
           fmt::format("last order less than {} before as_of", analysis::days_text(finding.options.active))},
          {"chance",
           "of at least one purchase within the horizon: 1 - (1 - anyway) x (1 - what a step adds) for each "
           "step"},
          {"rate",
           "of customers in the same position on earlier days, the share that bought it within the horizon"},
          {"step", "binomial tests, q values by Benjamini and Hochberg up to 0.05"}};
}

OrError<void> learn(Finding& finding, const mining::Histories& known) {
  const analysis::QuestionInput& asked = finding.asked;
  const Options& options = finding.options;
  finding.planned = planned_of(asked);
  auto lookback = recommender::choose_landmarks(
      *asked.population.first_date, finding.as_of, static_cast<std::int32_t>(options.horizon),
      static_cast<std::int32_t>(options.active), asked.daybook.customers());
  if (!lookback)
    return data_error(fmt::format("{} Take a smaller --horizon{}.", lookback.error().message,
                                  options.as_of ? ", or a later --as-of" : ""));
  finding.active = count_active(finding, known);
  if (finding.active == 0 && !options.customer)
    return data_error(
        fmt::format("none of the customers ordered within {} before {}, so nobody is active. Take a larger "
                    "--active.",
                    analysis::days_text(options.active), to_text(finding.as_of)));
  const expression::LineView lines(asked.daybook, asked.grains);
  PEAR_ASSIGN(finding.groups, recommender::choose_segments(options.group, lines, known));
  const analysis::Progress learning = analysis::part_of(asked.progress, 0, kLearned);
  if (options.evidence == Options::Evidence::selection) {
    finding.model.emplace(asked.daybook, recommender::of_chosen(known, finding.planned), std::move(*lookback),
                          finding.groups, finding.shelves, learning);
  } else {
    finding.model.emplace(asked.daybook, known, std::move(*lookback), finding.groups, finding.shelves,
                          learning);
  }
  return {};
}

OrError<result::Result> ask_plan(analysis::QuestionInput given, const Options& options) {
  const auto kept = std::make_shared<Finding>(std::move(given), options);
  Finding& finding = *kept;
  const analysis::QuestionInput& asked = finding.asked;
  PEAR_ASSIGN(finding.as_of, planning_day(asked, options));
  PEAR_ASSIGN(finding.bounds, constraints_of(asked, options));
  const mining::Histories known = histories_until(asked, finding.products, finding.as_of);
  PEAR_TRY(learn(finding, known));
  result::Result result;
  if (options.customer) {
    PEAR_ASSIGN(const std::uint32_t customer,
                analysis::find_one(asked.daybook, daybook::Level::customer, *options.customer));
    PEAR_ASSIGN(result, ask_one_customer(kept, known, customer));
  } else {
    finding.offers = recommender::make_plan(*finding.model, known, finding.bounds, finding.planned,
                                            analysis::part_of(asked.progress, kLearned, 100));
    result.headline = headline_of(finding);
    result.tables = {plan_table(kept), products_table(finding),
                     bundles_table(finding, find_bundles(finding))};
    result.figures = figures_of(finding);
  }
  result.definitions = definitions_of(finding);
  add_checks(finding, known, result);
  add_notes(finding, result);
  note_choice(asked, result);
  return result;
}

}  // namespace

OrError<result::Result> ask(analysis::QuestionInput asked, const Options& options) {
  if (asked.population.orders == 0)
    return data_error("there is no purchase, only returns, so nothing is known of what customers buy.");
  auto result = options.test ? ask_backtest(asked, options) : ask_plan(std::move(asked), options);
  if (result) result->question = "offers";
  return result;
}

}  // namespace pear::offers
