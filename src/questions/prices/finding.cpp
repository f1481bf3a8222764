#include "questions/prices/finding.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "analysis/find_member.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::prices {
namespace {

/// "3.4", "12"
std::string times(double factor) { return fmt::format("{:.{}f}", factor, factor < 9.95 ? 1 : 0); }

/// All customers of one reason together.
struct OfReason {
  std::uint64_t customers = 0;
  CustomerPrices sum;

  OfReason(const Counts& counts, PriceReason reason) {
    for (const CustomerPrices& each : *counts.customers) {
      if (each.reason != reason) continue;
      ++customers;
      sum.at_usual += each.at_usual;
      sum.judged_amount += each.judged_amount;
      sum.at_expected += each.at_expected;
      sum.judged_quantity += each.judged_quantity;
      sum.usual_quantity += each.usual_quantity;
    }
  }
};

bool any_judged(const PriceComparison& levels) {
  for (std::uint32_t product = 0; product < levels.products().size(); ++product)
    if (levels.is_judged(product)) return true;
  return false;
}

std::string volume_sentence(const Counts& counts) {
  const OfReason found(counts, PriceReason::volume);
  if (found.customers == 0) return "No customer pays significantly less than usual while buying far more.";
  return fmt::format(
      "{} {} less than usual and {} far more: {} times the usual quantity.",
      counted(found.customers, "customer"),
      (found.customers == 1 ? "pays " : "pay ") + analysis::per_cent(1 - found.sum.usual_index()),
      found.customers == 1 ? "buys" : "buy", times(found.sum.volume_index()));
}

/// How many rows the bounds keep.
std::string bounds_sentence(const Counts& counts) {
  const auto& options = counts.options;
  const auto per_cent_of = [&](std::int64_t units) { return Decimal::from_units(units).to_text() + "%"; };
  std::string bounds;
  if (options.below) bounds = "below " + per_cent_of(*options.below);
  if (options.above) bounds += (bounds.empty() ? "" : " and ") + ("above " + per_cent_of(*options.above));
  return fmt::format("{} of {} average prices {} {} of {}, paid by {}.",
                     with_thousands(static_cast<std::int64_t>(counts.rows->size())),
                     with_thousands(static_cast<std::int64_t>(counts.pairs())),
                     counts.rows->size() == 1 ? "is" : "are", bounds, counts.compared_with(),
                     counted(counts.customers_in_rows, "customer"));
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

/// Whether holds(pairs, prices) is true of every product.
template <class Holds>
bool holds_for_products(const PriceComparison& levels, const Holds& holds) {
  std::atomic<bool> all = true;
  tbb::parallel_for(std::uint32_t{0}, static_cast<std::uint32_t>(levels.products().size()),
                    [&](std::uint32_t product) {
                      if (!holds(levels.paid().of_product(product), levels.product(product))) all = false;
                    });
  return all;
}

/// In every product the pairs' indices, weighted by quantity, average 1.
result::Check indices_come_to_one(const PriceComparison& levels) {
  return {"the index of all customers, weighted by quantity, is 1 for every product",
          holds_for_products(levels, [&](daybook::Run run, const ProductPrices& prices) {
            double weighted = 0;
            for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
              weighted += levels.index(pair) * static_cast<double>(levels.paid()[pair].quantity);
            return prices.amount == 0 || std::abs(weighted / static_cast<double>(prices.quantity) - 1) < 1e-9;
          })};
}

/// Compared with the average of all, what some pay less others pay more: to within the rounding of each gap.
result::Check gaps_come_to_nothing(const PriceComparison& levels) {
  return {"gaps add up to 0 for every product, except for rounding",
          holds_for_products(levels, [&](daybook::Run run, const ProductPrices&) {
            Int128 doubled = 0;
            for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
              doubled += 2 * Int128{levels.gap(pair)};
            return doubled <= run.size() && -doubled <= run.size();
          })};
}

}  // namespace

std::string money(const Counts& counts, double units) {
  return analysis::rounded_money_text(std::llround(units), counts.input.currency);
}

std::string unexplained_sentence(const Counts& counts) {
  const OfReason found(counts, PriceReason::unexplained);
  if (found.customers == 0) return "No customer pays significantly less than customers with the same volume.";
  return fmt::format(
      "{} {} less than customers with the same volume, {} in total: volume does not explain it.",
      counted(found.customers, "customer"),
      (found.customers == 1 ? "pays " : "pay ") + analysis::per_cent(1 - found.sum.unexplained()),
      money(counts, found.sum.at_expected - found.sum.judged_amount));
}

std::string largest_gap(const Counts& counts, const CustomerPrices& most) {
  const std::string who = analysis::member_title(counts.daybook(), daybook::Level::customer, most.customer);
  return fmt::format("{} paid {} less than {} for the same pieces", who,
                     money(counts, static_cast<double>(most.gap)),
                     counts.options.against == Against::others ? "others"
                     : counts.options.against == Against::all  ? "the average"
                                                               : "the list price");
}

std::vector<std::string> product_headline(const Counts& counts) {
  const ProductPrices& prices = counts.levels->product(*counts.product);
  const std::string what = analysis::member_title(counts.daybook(), daybook::Level::product, *counts.product);
  const auto text = [](std::int64_t units) { return with_thousands(Decimal::from_units(units), 2); };
  const std::string half = prices.lower_quartile == prices.upper_quartile
                               ? fmt::format("at least half of them {}", text(prices.median))
                               : fmt::format("half of them between {} and {}", text(prices.lower_quartile),
                                             text(prices.upper_quartile));
  std::vector<std::string> headline = {
      fmt::format("{}: {} paid {} on average; {}.", what, counted(prices.customers, "customer"),
                  money(counts, static_cast<double>(prices.average())), half)};
  if (!counts.has_tests) return headline;
  if (!counts.levels->is_judged(*counts.product)) {
    headline.push_back(
        fmt::format("Fewer than {} customers bought it, too few to compare prices by quantity.",
                    counts.options.at_least));
  } else {
    const daybook::Run run = counts.levels->paid().of_product(*counts.product);
    std::uint64_t low = 0;
    for (std::uint32_t pair = run.begin; pair < run.end; ++pair) low += counts.levels->is_low(pair) ? 1U : 0U;
    headline.push_back(fmt::format(
        "{} ({}) paid at least 5% less for it than customers with the same volume.", counted(low, "customer"),
        analysis::per_cent(static_cast<double>(low) / prices.customers)));
    const auto& steps = prices.expected.steps();
    if (steps.size() > 1 && !counts.has_bounds())  // three sentences are enough
      headline.insert(
          headline.begin() + 1,
          fmt::format("Customers with {} pieces or more in total usually pay {} less than those with few.",
                      with_thousands(Decimal::from_units(steps.back().begins), -1),
                      analysis::per_cent(1 - steps.back().level / steps.front().level)));
  }
  return headline;
}

std::vector<std::string> headline_of(const Counts& counts) {
  std::vector<std::string> headline;
  if (counts.product)
    headline = product_headline(counts);
  else if (!counts.has_tests && (counts.has_bounds() || counts.customers->front().gap > 0))
    headline = {};
  else if (!counts.has_tests)
    headline = {fmt::format("No customer paid less than {} for the same pieces.", counts.compared_with())};
  else if (any_judged(*counts.levels))
    headline = {unexplained_sentence(counts), volume_sentence(counts)};
  else
    headline = {fmt::format("No product has {} customers, the least number to compare prices by quantity.",
                            counts.options.at_least)};
  if (counts.has_bounds())
    headline.push_back(bounds_sentence(counts));
  else if (!counts.product && !counts.customers->empty() && counts.customers->front().gap > 0)
    headline.push_back("Largest gap: " + largest_gap(counts, counts.customers->front()) + ".");
  return headline;
}

std::vector<result::Stake> stakes_of(const Counts& counts) {
  if (counts.product || !any_judged(*counts.levels)) return {};
  const OfReason unexplained(counts, PriceReason::unexplained), volume(counts, PriceReason::volume);
  std::vector<result::Stake> stakes;
  const auto add = [&](std::size_t sentence, double units) {
    if (units >= 1) stakes.push_back({sentence, std::llround(units)});
  };
  add(0, unexplained.sum.at_expected - unexplained.sum.judged_amount);
  add(1, volume.sum.at_usual - volume.sum.judged_amount);
  return stakes;
}

result::Definitions definitions_of(const Counts& counts) {
  result::Definitions definitions = {
      {"average", "total amount divided by total pieces, a weighted average; without returns"},
      {"index",
       "average price of the customer divided by that of all customers; index_of_others: by that of the "
       "others"},
      {"gap", counts.options.against == Against::list
                  ? "the same pieces at list price, minus what was paid"
                  : fmt::format("quantity x ({} - average price)", counts.options.against == Against::all
                                                                       ? "average of all"
                                                                       : "average of the others")},
      {"price of the time",
       "the product's median price x what orders of the nearest days paid x what its purchases of the "
       "nearest "
       "days cost (upper quartiles of at least 15 orders and 7 purchases)"},
      {"expected",
       fmt::format("the usual share of the price of the time at the quantity: a falling step function "
                   "of medians, fitted to products with {} customers or more",
                   counts.options.at_least)},
      {"unexplained",
       "at least 5% below the expected price in total and in at least 3 of 4 orders, and this "
       "number of orders is significant (binomial test at the rate of orders of the same month "
       "and size, false discovery rate 5%)"},
      {"volume",
       "the same compared with the price at the median quantity, in at least half of the orders, with at "
       "least 2 times that quantity"}};
  if (!counts.has_tests) definitions.resize(3);  // the others belong to the tests
  return definitions;
}

void add_notes(const Counts& counts, result::Result& result) {
  const PriceComparison& levels = *counts.levels;
  std::vector<std::uint32_t> few, unlisted;
  for (std::uint32_t product = 0; product < levels.products().size(); ++product) {
    if (levels.product(product).customers == 0 || counts.product.value_or(product) != product) continue;
    if (counts.has_tests && levels.product(product).customers < counts.options.at_least)
      few.push_back(product);
    if (levels.product(product).listed.quantity == 0) unlisted.push_back(product);
  }
  if (!few.empty())
    result.notes.push_back(
        fmt::format("{} fewer than {} customers, too few to compare prices by quantity: {}.",
                    counted(few.size(), "product has", "products have"), counts.options.at_least,
                    some_of(counts.daybook(), few)));
  if (levels.paid().has_list_prices() && !unlisted.empty())
    result.notes.push_back(fmt::format("{} no list price: {}.",
                                       counted(unlisted.size(), "product has", "products have"),
                                       some_of(counts.daybook(), unlisted)));
  if (!counts.has_tests)
    result.notes.push_back(
        "Whether volume explains low prices is a test over single orders, which a database does not compute. "
        "Import the lines, or a sample of customers (--customers 1/50), for it.");
  if (!counts.lists_pairs())
    result.notes.push_back("A database lists the prices of customers with --below, --above or --product.");
  if (levels.paid().left_out() > 0)
    result.notes.push_back(fmt::format("{} without a quantity above 0: these have no price and are left out.",
                                       counted(levels.paid().left_out(), "line is", "lines are")));
}

void add_checks(const Counts& counts, result::Result& result) {
  const PriceComparison& levels = *counts.levels;
  if (counts.has_tests) {
    result.checks.push_back(indices_come_to_one(levels));
    if (counts.options.against == Against::all) result.checks.push_back(gaps_come_to_nothing(levels));
  } else if (counts.product) {
    return;
  }
  DecimalSum of_products, of_customers;
  for (const ProductPrices& each : levels.products()) of_products.add(Decimal::from_units(each.amount));
  for (const CustomerPrices& each : *counts.customers) of_customers.add(Decimal::from_units(each.amount));
  const auto total = of_products.total();
  result.checks.push_back(
      {fmt::format("the total of all products, {}, equals the total of all customers",
                   total ? with_thousands(*total) : fmt::format("{:.0f}", of_products.approximate())),
       of_products == of_customers});
}

}  // namespace pear::prices
