#include "questions/prices/question.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <numeric>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_sort.h>

#include "analysis/find_member.hpp"
#include "base/text.hpp"
#include "questions/prices/tables.hpp"

namespace pear::prices {
namespace {

/// Pairs within the bounds and of the product asked about, the largest gap first: or the smallest, where only
/// those who pay more are asked for. Those without gap come last; of equals the first by product and
/// customer.
std::vector<std::uint32_t> rows_of(const PriceComparison& levels, const Options& options,
                                   std::optional<std::uint32_t> product) {
  struct Row {
    std::int64_t gap;
    std::uint32_t pair;
  };
  const daybook::Run run = product ? levels.paid().of_product(*product)
                                   : daybook::Run{0, static_cast<std::uint32_t>(levels.paid().size())};
  const bool upwards = options.above && !options.below;
  constexpr double kPerCent = 100.0 * Decimal::kScale;
  const auto is_kept = [&](std::uint32_t pair) {
    if (!options.below && !options.above) return true;
    const double compared = levels.compared(pair) * kPerCent;  // NaN is kept by no bound
    return (!options.below || compared < static_cast<double>(*options.below)) &&
           (!options.above || compared > static_cast<double>(*options.above));
  };
  std::vector<Row> rows;
  if (!options.below && !options.above) rows.reserve(run.size());
  for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
    if (is_kept(pair)) rows.push_back({0, pair});
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, rows.size(), 16'384), [&](const auto& part) {
    for (std::size_t i = part.begin(); i != part.end(); ++i) {
      const std::int64_t gap = levels.gap(rows[i].pair);
      rows[i].gap = upwards && gap != daybook::kEmptyUnits ? -gap : gap;
    }
  });
  tbb::parallel_sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) {
    return a.gap != b.gap ? a.gap > b.gap : a.pair < b.pair;
  });
  std::vector<std::uint32_t> pairs;
  pairs.reserve(rows.size());
  for (const Row& row : rows) pairs.push_back(row.pair);
  return pairs;
}

/// "P91 and 3 more"
std::string some_of(const daybook::Daybook& daybook, const std::vector<std::uint32_t>& products) {
  constexpr std::size_t kNamed = 3;
  std::vector<std::string> names;
  for (std::size_t i = 0; i < std::min(kNamed, products.size()); ++i)
    names.push_back(analysis::member_title(daybook, daybook::Level::product, products[i]));
  return join(names, ", ") +
         (products.size() > kNamed ? fmt::format(" and {} more", products.size() - kNamed) : "");
}

void add_notes(const Finding& finding, result::Result& result) {
  const PriceComparison& levels = *finding.levels;
  std::vector<std::uint32_t> few, unlisted;
  for (std::uint32_t product = 0; product < levels.products().size(); ++product) {
    if (levels.product(product).customers == 0 || finding.product.value_or(product) != product) continue;
    if (levels.product(product).customers < finding.options.at_least) few.push_back(product);
    if (levels.product(product).listed.quantity == 0) unlisted.push_back(product);
  }
  if (!few.empty())
    result.notes.push_back(
        fmt::format("{} fewer than {} customers, too few to say what a quantity costs: {}.",
                    counted(few.size(), "product has", "products have"), finding.options.at_least,
                    some_of(finding.daybook(), few)));
  if (levels.paid().has_list_prices() && !unlisted.empty())
    result.notes.push_back(fmt::format("{} no list price: {}.",
                                       counted(unlisted.size(), "product has", "products have"),
                                       some_of(finding.daybook(), unlisted)));
  if (levels.paid().left_out() > 0)
    result.notes.push_back(fmt::format("{} without a quantity above 0: they tell no price and are left out.",
                                       counted(levels.paid().left_out(), "line is", "lines are")));
}

/// In every product the pairs' indices, weighted by quantity, come to 1.
result::Check indices_come_to_one(const PriceComparison& levels) {
  std::vector<std::uint8_t> holds(levels.products().size(), 1);
  tbb::parallel_for(std::size_t{0}, levels.products().size(), [&](std::size_t product) {
    const ProductPrices& prices = levels.product(static_cast<std::uint32_t>(product));
    if (prices.amount == 0) return;
    double weighted = 0;
    const daybook::Run run = levels.paid().of_product(static_cast<std::uint32_t>(product));
    for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
      weighted += levels.index(pair) * static_cast<double>(levels.paid()[pair].quantity);
    holds[product] = std::abs(weighted / static_cast<double>(prices.quantity) - 1) < 1e-9 ? 1 : 0;
  });
  return {"the index of all customers, weighted by quantity, is 1 for every product",
          std::find(holds.begin(), holds.end(), 0) == holds.end()};
}

/// Against the average of all, what some pay less others pay more: to within the rounding of each gap.
result::Check gaps_come_to_nothing(const PriceComparison& levels) {
  bool holds = true;
  for (std::uint32_t product = 0; product < levels.products().size(); ++product) {
    const daybook::Run run = levels.paid().of_product(product);
    Int128 doubled = 0;
    for (std::uint32_t pair = run.begin; pair < run.end; ++pair) doubled += 2 * Int128{levels.gap(pair)};
    holds = holds && doubled <= run.size() && -doubled <= run.size();
  }
  return {"gaps add up to 0 for every product, but for rounding", holds};
}

void add_checks(const Finding& finding, result::Result& result) {
  const PriceComparison& levels = *finding.levels;
  result.checks.push_back(indices_come_to_one(levels));
  if (finding.options.against == Against::all) result.checks.push_back(gaps_come_to_nothing(levels));
  DecimalSum of_products, of_customers;
  for (const ProductPrices& each : levels.products()) of_products.add(Decimal::from_units(each.amount));
  for (const CustomerPrices& each : *finding.customers) of_customers.add(Decimal::from_units(each.amount));
  const auto total = of_products.total();
  result.checks.push_back(
      {fmt::format("what all products brought, {}, is what all customers paid",
                   total ? with_thousands(*total) : fmt::format("{:.0f}", of_products.approximate())),
       of_products == of_customers});
}

result::Definitions definitions_of(const Finding& finding) {
  return {
      {"average", "amount by pieces, so that who buys more counts for more; returns left out"},
      {"index",
       "average price of the customer by that of all customers; index_of_others by that of the others"},
      {"gap", finding.options.against == Against::list
                  ? "what the same pieces cost at list price, less what was paid"
                  : fmt::format("quantity x ({} - average price)", finding.options.against == Against::all
                                                                       ? "average of all"
                                                                       : "average of the others")},
      {"expected", fmt::format("the index usual at the quantity: a falling step function of medians, fitted "
                               "to products with {} customers or more",
                               finding.options.at_least)},
      {"clearly less", "at least 5% below what is expected"},
      {"unexplained",
       "clearly less for 3 of 4 products or more, and too often for chance (binomial, at most "
       "1 in 20 of those found by chance)"},
      {"volume",
       "at least 5% below what customers of the median quantity pay, at 2 times that quantity or more"}};
}

}  // namespace

OrError<result::Result> ask(analysis::QuestionInput asked, const Options& options) {
  Finding finding{asked, options, {}, {}, {}, {}, {}};
  if (options.product) {
    PEAR_ASSIGN(finding.product,
                analysis::find_one(asked.daybook, daybook::Level::product, *options.product));
  }
  PEAR_ASSIGN(CustomerProductPrices paid, CustomerProductPrices::gather(asked.daybook));
  if (options.against == Against::list && !paid.has_list_prices())
    return usage_error(
        "--against list: the daybook has no list_price. Import it from the product list or a list "
        "of prices (see docs/intake-file.md), or compare with others.");
  if (paid.size() == 0 || (finding.product && paid.of_product(*finding.product).size() == 0))
    return data_error("there is no purchase with a quantity above 0, so no price to tell.");
  if (finding.product) finding.months = months_table(asked.daybook, *finding.product);
  asked.daybook = daybook::without_lines(std::move(asked.daybook));
  PEAR_ASSIGN(PriceComparison levels,
              PriceComparison::work_out(std::move(paid), options.against, options.at_least));
  finding.rows = std::make_shared<std::vector<std::uint32_t>>(rows_of(levels, options, finding.product));
  PEAR_ASSIGN(std::vector<CustomerPrices> customers, customer_price_indices(asked.daybook, levels));
  tbb::parallel_sort(customers.begin(), customers.end(),
                     [](const CustomerPrices& a, const CustomerPrices& b) {
                       return a.gap != b.gap ? a.gap > b.gap : a.customer < b.customer;
                     });
  finding.customers = std::make_shared<std::vector<CustomerPrices>>(std::move(customers));
  finding.levels = std::make_shared<PriceComparison>(std::move(levels));

  result::Result result;
  result.question = "prices";
  result.population = asked.population;
  result.definitions = definitions_of(finding);
  result.headline = headline_of(finding);
  result.tables = {prices_table(finding)};
  if (!finding.product) result.tables.push_back(customers_table(finding));
  result.tables.push_back(products_table(finding));
  if (finding.months) result.tables.push_back(*finding.months);
  result.figures = figures_of(finding);
  add_checks(finding, result);
  add_notes(finding, result);
  return result;
}

namespace {

analysis::OptionDeclaration<Options> per_cent_option(analysis::OptionInfo info,
                                                     std::optional<std::int64_t> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    if (text.ends_with('%')) text.remove_suffix(1);
    const auto value = Decimal::parse(text);
    if (!value || value->units() < 0)
      return usage_error(fmt::format("--{} takes a number of per cent from 0 up, such as 95, not {}.", name,
                                     in_quotes(text)));
    options.*member = value->units();
    return {};
  };
  return {std::move(info), std::move(set)};
}

analysis::OptionDeclarations<Options> prices_options() {
  using Options = Options;
  return {analysis::word_option<Options>(
              {"against", "WHAT", "others",
               "what prices are compared with: all, others (all but the customer), or list"},
              &Options::against, {"all", "others", "list"}),
          per_cent_option({"below", "PER-CENT", "", "only prices below so many per cent of that"},
                          &Options::below),
          per_cent_option({"above", "PER-CENT", "", "only prices above so many per cent of that"},
                          &Options::above),
          analysis::text_option<Options>(
              {"product", "ID", "", "one product, by id or name: its customers, and its price by month"},
              &Options::product),
          analysis::whole_option<Options>(
              {"at-least", "N", "20", "customers that a product must have to say what a quantity costs"},
              &Options::at_least, 2, 1'000'000)};
}

}  // namespace

analysis::Question question() {
  return {
      "prices",
      "who pays less than others, by how much, and whether volume explains it",
      "Sets what each customer paid for each product beside what the others paid, weighted by quantity; "
      "says\n"
      "what the difference is worth, and whether others who buy as much pay as little. Returns never count.",
      {"pear-thread prices shop.daybook", "pear-thread prices --below 95",
       "pear-thread prices --against list", "pear-thread prices --product P11",
       "pear-thread prices --where \"buyer = 'trade'\" --above 100"},
      analysis::infos(prices_options()),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const Options options, analysis::read_options(prices_options(), values));
        analysis::PreparedQuestion prepared;
        for (const std::string_view name :
             {daybook::role::kCustomerId, daybook::role::kProductId, daybook::role::kOrderDate,
              daybook::role::kIsReturn, daybook::role::kQuantity, daybook::role::kAmount})
          prepared.columns.emplace_back(name);
        prepared.where_there = {"customer_name", "product_name", std::string(daybook::role::kListPrice)};
        prepared.ask = [options](analysis::QuestionInput asked) { return ask(std::move(asked), options); };
        return prepared;
      }};
}

}  // namespace pear::prices
