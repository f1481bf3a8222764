#include "question/offers.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "question/member_column.hpp"
#include "question/member_lookup.hpp"
#include "question/offer_groups.hpp"
#include "question/offer_test.hpp"
#include "question/offers_finding.hpp"
#include "question/selection.hpp"
#include "question/tree_option.hpp"

namespace pear {
namespace {

std::string days_told(std::int64_t days) { return counted(static_cast<std::uint64_t>(days), "day"); }

OrError<Date> planning_day(const Asked& asked, const OffersOptions& options) {
  if (!options.as_of) return asked.data_end;
  if (*options.as_of > asked.data_end)
    return usage_error(
        fmt::format("--as-of {} is later than the data, which ends on {}: what was bought since is not "
                    "known. Import newer "
                    "sales first.",
                    to_text(*options.as_of), to_text(asked.data_end)));
  return *options.as_of;
}

/// Codes of products in a list "P1,P2".
OrError<std::vector<std::uint32_t>> listed(const Daybook& daybook, const std::string& option,
                                           const std::string& list) {
  std::vector<std::uint32_t> products;
  for (std::size_t begin = 0; begin <= list.size();) {
    const std::size_t comma = std::min(list.find(',', begin), list.size());
    std::string text = list.substr(begin, comma - begin);
    text.erase(0, text.find_first_not_of(' '));
    text.erase(text.find_last_not_of(' ') + 1);
    auto found = find_one(daybook, Level::product, text);
    if (!found)
      return tl::unexpected(
          Error{found.error().kind, fmt::format("--{}: {}", option, found.error().message)});
    products.push_back(*found);
    begin = comma + 1;
  }
  return products;
}

/// The place of a column, by its name in snake_case; behind all where there is none.
std::size_t column_of(const SideTable& table, std::string_view name) {
  const auto found = std::find_if(table.header.begin(), table.header.end(),
                                  [&](const std::string& each) { return snake_case(each) == name; });
  return static_cast<std::size_t>(found - table.header.begin());
}

/// Pieces by product, of a list with the columns product_id and pieces.
OrError<std::vector<std::int64_t>> stock_of(const Daybook& daybook, const SideTable& table) {
  const std::size_t products = column_of(table, "product_id"), pieces = column_of(table, "pieces");
  if (products == table.header.size() || pieces == table.header.size())
    return data_error(fmt::format("{}: a stock list has the columns product_id and pieces; this one has {}.",
                                  table.file, join(table.header, ", ")));
  std::vector<std::int64_t> stock(daybook.products(), 0);
  std::vector<std::uint64_t> lines(daybook.products(), 0);
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    const std::string& id = table.rows[row][products];
    const std::string where = fmt::format("{} line {}", table.file, table.lines[row]);
    const auto count = Decimal::parse(table.rows[row][pieces]);
    if (!count || count->units() < 0)
      return data_error(fmt::format("{}, column {}: {} is not a number of pieces, 0 or more.", where,
                                    table.header[pieces], in_quotes(table.rows[row][pieces])));
    for (std::uint32_t product = 0; product < daybook.products(); ++product) {
      if (daybook.product_ids()[product] != id) continue;
      if (lines[product] != 0)
        return data_error(fmt::format("{}: {} stands on line {} already. Leave one row for each product.",
                                      where, in_quotes(id), lines[product]));
      lines[product] = table.lines[row];
      stock[product] = count->units() / Decimal::kScale;
    }
  }
  return stock;
}

OrError<OfferBounds> bounds_of(const Asked& asked, const OffersOptions& options) {
  constexpr double kLeastChance = 0.01;
  const Daybook& daybook = asked.daybook;
  const bool has_margins = daybook.find("margin") != nullptr;
  OfferBounds bounds;
  bounds.per_customer = static_cast<std::size_t>(options.per_customer);
  bounds.least_chance = options.min_chance.value_or(kLeastChance);
  bounds.rank_by = options.rank_by.value_or(has_margins ? RankBy::margin : RankBy::amount);
  if (bounds.rank_by == RankBy::margin && !has_margins)
    return usage_error(
        "--rank-by margin needs costs, and the daybook has no unit_cost. Take amount or chance.");
  bounds.allowed.assign(daybook.products(), options.only ? 0 : 1);
  if (options.only) {
    PEAR_ASSIGN(const auto products, listed(daybook, "only", *options.only));
    for (const std::uint32_t product : products) bounds.allowed[product] = 1;
  }
  if (options.exclude) {
    PEAR_ASSIGN(const auto products, listed(daybook, "exclude", *options.exclude));
    for (const std::uint32_t product : products) bounds.allowed[product] = 0;
  }
  if (options.stock) {
    PEAR_ASSIGN(bounds.stock, stock_of(daybook, asked.side_tables.at("stock")));
  }
  if (options.budget) bounds.budget = static_cast<std::size_t>(*options.budget);
  return bounds;
}

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
      lookback.season
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

/// Where --where left nobody to plan for.
std::vector<std::uint8_t> planned_of(const Asked& asked) {
  return asked.chosen_customers.empty() ? std::vector<std::uint8_t>(asked.daybook.customers(), 1)
                                        : asked.chosen_customers;
}

void note_choice(const Asked& asked, Result& result) {
  if (asked.chosen_customers.empty()) return;
  result.notes.push_back(
      fmt::format("Planned for the {} with a line that meets --where.",
                  counted(static_cast<std::uint64_t>(
                              std::count(asked.chosen_customers.begin(), asked.chosen_customers.end(), 1)),
                          "customer")));
}

/// What customers bought up to a day, of what was asked about.
Histories histories_until(const Asked& asked, const GroupKey& products, Date day) {
  SequenceRule rule;
  rule.repeats = Repeats::all;
  Histories histories = gather_histories(asked.daybook, products, rule);
  return day < *asked.population.last_date ? known_by(histories, day) : std::move(histories);
}

OrError<void> learn(OffersFinding& finding, const Histories& known) {
  const Asked& asked = finding.asked;
  const OffersOptions& options = finding.options;
  finding.planned = planned_of(asked);
  PEAR_ASSIGN(
      Lookback lookback,
      lookback_of(*asked.population.first_date, finding.as_of, static_cast<std::int32_t>(options.horizon),
                  static_cast<std::int32_t>(options.active), asked.daybook.customers()));
  finding.active = count_active(finding, known);
  if (finding.active == 0 && !options.customer)
    return data_error(
        fmt::format("none of the customers ordered within {} before {}, so nobody is active. Take a larger "
                    "--active.",
                    days_told(options.active), to_text(finding.as_of)));
  const LineView lines(asked.daybook, asked.grains);
  PEAR_ASSIGN(finding.groups, offer_groups(options.group, lines, known));
  if (options.evidence == OffersOptions::Evidence::selection) {
    finding.model.emplace(asked.daybook, of_chosen(known, finding.planned), std::move(lookback),
                          finding.groups, finding.shelves);
  } else {
    finding.model.emplace(asked.daybook, known, std::move(lookback), finding.groups, finding.shelves);
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
    finding.offers = plan_offers(*finding.model, known, finding.bounds, finding.planned, asked.progress);
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

constexpr std::int64_t kFolds = 3;

/// The last days that are known to each plan, the latest first: as many as the data has room for.
OrError<std::vector<Date>> cuts_of(const Asked& asked, const OffersOptions& options, Date as_of) {
  std::vector<Date> cuts;
  const auto horizon = static_cast<std::int32_t>(*options.test);
  for (std::int64_t fold = 1; fold <= options.folds.value_or(kFolds); ++fold) {
    const Date cut{as_of.days - static_cast<std::int32_t>(fold) * horizon};
    const auto lookback = lookback_of(*asked.population.first_date, cut, horizon,
                                      static_cast<std::int32_t>(options.active), asked.daybook.customers());
    if (!lookback && (cuts.empty() || options.folds))
      return data_error(fmt::format("--test {}: before {}, {}", horizon, to_text(Date{cut.days + 1}),
                                    lookback.error().message));
    if (!lookback) break;
    cuts.push_back(cut);
  }
  return cuts;
}

OrError<Result> ask_test(const Asked& asked, const OffersOptions& options) {
  OfferTestRules rules;
  rules.horizon = static_cast<std::int32_t>(*options.test);
  rules.active = static_cast<std::int32_t>(options.active);
  rules.group = options.group;
  rules.from_selection = options.evidence == OffersOptions::Evidence::selection;
  PEAR_ASSIGN(rules.bounds, bounds_of(asked, options));
  rules.bounds.least_chance = 0;
  PEAR_ASSIGN(const Date as_of, planning_day(asked, options));
  PEAR_ASSIGN(rules.cuts, cuts_of(asked, options, as_of));
  const GroupKey products = id_key(asked.daybook, Level::product);
  const Histories histories = histories_until(asked, products, as_of);
  const LineView lines(asked.daybook, asked.grains);
  PEAR_ASSIGN(const OfferTest test, test_offers(asked, lines, histories, rules, planned_of(asked)));
  if (test.customers == 0)
    return data_error(
        "none of the customers was active on a day from which the plan is tested. Take a larger --active.");
  Result result;
  result.headline = offers_test_headline(test, asked, rules.horizon);
  result.tables = {offers_test_table(test), calibration_table(test)};
  result.tables.front().part = "test";
  result.figures = offers_test_figures(test, rules.horizon);
  std::vector<std::string> cuts;
  for (const Date cut : test.cuts) cuts.push_back(to_text(cut));
  result.definitions = {
      {"held back", fmt::format("{} behind each of {}", days_told(rules.horizon), join(cuts, ", "))},
      {"hit", "an offered product that the customer bought within these days"},
      {"intervals", "95%: bootstrap over up to 200 groups of customers, 1,000 times"}};
  std::uint64_t pairs = 0, bought = 0;
  for (const CalibrationGroup& group : test.calibration) pairs += group.pairs, bought += group.bought;
  bool fits = bought == test.bought;
  for (const TestedMethod& method : test.methods)
    for (const TestedDepth& depth : method.depths)
      fits = fits && depth.hits <= depth.offers && depth.offers <= depth.first * test.customers;
  result.checks.push_back(
      {fmt::format("stated chances are of all {} that could be offered", counted(pairs, "pair")), fits});
  result.notes.push_back(
      fmt::format("Planned from what was known on {}; each plan and its rivals saw nothing later. Rivals "
                  "choose of the same "
                  "products: those the customer has not bought.",
                  join(cuts, ", ")));
  if (!options.folds && test.cuts.size() < kFolds)
    result.notes.push_back(fmt::format("The data has room for {} alone.", counted(test.cuts.size(), "cut")));
  note_choice(asked, result);
  return result;
}

OptionDeclaration<OffersOptions> share_option(OptionInfo info, std::optional<double> OffersOptions::*member) {
  auto set = [name = info.name, member](OffersOptions& options, std::string_view text) -> OrError<void> {
    const bool per_cent = text.ends_with('%');
    const auto value = Decimal::parse(per_cent ? text.substr(0, text.size() - 1) : text);
    const double share =
        value ? static_cast<double>(value->units()) / Decimal::kScale / (per_cent ? 100 : 1) : -1;
    if (!(share >= 0 && share <= 1))
      return usage_error(
          fmt::format("--{} takes a chance such as 0.05 or 5%, not {}.", name, in_quotes(text)));
    options.*member = share;
    return {};
  };
  return {std::move(info), std::move(set)};
}

OptionDeclaration<OffersOptions> rank_option() {
  return {{"rank-by", "margin|chance|amount", "margin, or amount without costs",
           "what puts one offer before another"},
          [](OffersOptions& options, std::string_view text) -> OrError<void> {
            PEAR_ASSIGN(const std::size_t word, parse_word("rank-by", text, {"margin", "chance", "amount"}));
            options.rank_by = static_cast<RankBy>(word);
            return {};
          }};
}

OptionDeclarations<OffersOptions> offers_options() {
  using Options = OffersOptions;
  OptionInfo stock{"stock", "FILE", "", "a CSV file of product_id and pieces: no more offers than there are"};
  stock.names_file = true;
  return {
      whole_option<Options>({"horizon", "DAYS", "90", "how far ahead the plan looks"}, &Options::horizon, 1,
                            730),
      day_option<Options>(
          {"as-of", "DATE", "the last day of the data", "the day of the plan: what is later is not known"},
          &Options::as_of),
      whole_option<Options>({"active", "DAYS", "365", "plan for customers whose last order is less long ago"},
                            &Options::active, 1, 3650),
      whole_option<Options>({"per-customer", "N", "3", "most offers to a customer"}, &Options::per_customer,
                            1, 50),
      share_option({"min-chance", "CHANCE", "1%", "least chance of an offer"}, &Options::min_chance),
      text_option<Options>({"only", "PRODUCTS", "", "offer these alone: ids or names with commas between"},
                           &Options::only),
      text_option<Options>({"exclude", "PRODUCTS", "", "do not offer these"}, &Options::exclude),
      rank_option(),
      tree_option<Options>(
          {"group", "COLUMN", "by the data", "customers who buy alike: any column of customers"},
          &Options::group),
      word_option<Options>(
          {"evidence", "all|selection", "all", "learn from all customers, or from those of --where"},
          &Options::evidence, {"all", "selection"}),
      text_option<Options>(std::move(stock), &Options::stock),
      whole_option<Options>({"budget", "N", "", "contact the best N customers alone"}, &Options::budget, 1,
                            1'000'000'000),
      text_option<Options>({"customer", "ID", "", "one customer's offers, with history and all evidence"},
                           &Options::customer),
      whole_option<Options>({"test", "DAYS", "", "hold back so many days, plan from the rest, and score"},
                            &Options::test, 1, 730),
      whole_option<Options>({"folds", "N", "3", "from how many days to test, each so many days earlier"},
                            &Options::folds, 1, 24)};
}

/// Options that have no meaning beside each other.
OrError<void> check(const OffersOptions& options) {
  if (options.folds && !options.test) return usage_error("--folds goes with --test DAYS.");
  if (options.test && (options.stock || options.budget || options.customer || options.min_chance))
    return usage_error(
        "--test scores the first 1, 3 and 5 offers to every active customer, so that --stock, --budget, "
        "--customer and --min-chance do not go with it.");
  if (options.customer && (options.stock || options.budget))
    return usage_error(
        "--customer shows one customer, whatever --stock and --budget leave for the others: leave those "
        "out.");
  return {};
}

}  // namespace

OrError<Result> ask_offers(Asked asked, const OffersOptions& options) {
  if (asked.population.orders == 0)
    return data_error("there is no purchase, only returns, so nothing is known of what customers buy.");
  auto result = options.test ? ask_test(asked, options) : ask_plan(std::move(asked), options);
  if (result) result->question = "offers";
  return result;
}

Question offers_question() {
  return {
      "offers",
      "the cross-selling plan: whom to offer what, when and why",
      "For each active customer, the products not bought yet (or due again) that are worth offering, with\n"
      "the chance that they buy, what it should bring, the best days and the reason. --where chooses the\n"
      "customers to plan for; evidence comes from all. --test proves the plan on sales it has not seen.",
      {"pear-thread offers shop.daybook", "pear-thread offers --test 90",
       "pear-thread offers --where \"region = 'North'\" --budget 500 --exclude P44",
       "pear-thread offers --customer C101", "pear-thread offers --stock stock.csv --rank-by chance"},
      infos(offers_options()),
      [](const OptionValues& values) -> OrError<PreparedQuestion> {
        PEAR_ASSIGN(OffersOptions options, read_options(offers_options(), values));
        PEAR_TRY(check(options));
        const bool has_horizon = std::any_of(values.begin(), values.end(),
                                             [](const auto& value) { return value.first == "horizon"; });
        if (options.test && has_horizon && options.horizon != *options.test)
          return usage_error(fmt::format(
              "--test {} holds back as many days as the plan looks ahead, so that --horizon {} does not go "
              "with it.",
              *options.test, options.horizon));
        if (options.test) options.horizon = *options.test;
        PreparedQuestion prepared;
        prepared.columns = {std::string(role::kCustomerId), std::string(role::kProductId),
                            std::string(role::kAmount)};
        prepared.where_there = {"margin", "category", "product_name", "customer_name"};
        if (options.customer) {
          prepared.columns.emplace_back(role::kOrderId);
          prepared.where_there.insert(prepared.where_there.end(),
                                      {std::string(role::kQuantity), std::string(role::kUnitPrice)});
        }
        if (!options.group) prepared.level = Level::customer;
        if (options.group) prepared.trees.push_back({"group", *options.group, {}});
        prepared.where_chooses_customers = true;
        prepared.ask = [options](Asked asked) { return ask_offers(std::move(asked), options); };
        return prepared;
      }};
}

}  // namespace pear
