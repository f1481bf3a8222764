// What prices says: headline and figures.
#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "analysis/find_member.hpp"
#include "analysis/member_column.hpp"
#include "base/text.hpp"
#include "questions/prices/tables.hpp"

namespace pear::prices {
namespace {

std::string money(const Finding& finding, double units) {
  const Decimal amount = Decimal::from_units(std::llround(units));
  return with_thousands(amount, 2) + (finding.asked.currency.empty() ? "" : " " + finding.asked.currency);
}

std::string percent(double share) { return fmt::format("{:.1f}%", 100 * share); }

/// "3.4", "12"
std::string times(double factor) { return fmt::format("{:.{}f}", factor, factor < 9.95 ? 1 : 0); }

/// All customers of one reason together.
struct OfReason {
  std::uint64_t customers = 0;
  CustomerPrices sum;

  OfReason(const Finding& finding, PriceReason reason) {
    for (const CustomerPrices& each : *finding.customers) {
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

std::string unexplained_sentence(const Finding& finding) {
  const OfReason found(finding, PriceReason::unexplained);
  if (found.customers == 0)
    return "Nobody pays clearly less, for most products, than customers who buy as much.";
  return fmt::format("{} {} less than customers who buy as much, {} in all: volume does not explain it.",
                     counted(found.customers, "customer"),
                     (found.customers == 1 ? "pays " : "pay ") + percent(1 - found.sum.unexplained()),
                     money(finding, found.sum.at_expected - found.sum.judged_amount));
}

std::string volume_sentence(const Finding& finding) {
  const OfReason found(finding, PriceReason::volume);
  if (found.customers == 0) return "Nobody pays clearly less for buying far more than usual.";
  return fmt::format("{} {} less than is usual and {} far more: {} times the usual quantity.",
                     counted(found.customers, "customer"),
                     (found.customers == 1 ? "pays " : "pay ") + percent(1 - found.sum.usual_index()),
                     found.customers == 1 ? "buys" : "buy", times(found.sum.volume_index()));
}

/// How many rows the bounds keep.
std::string bounds_sentence(const Finding& finding) {
  const auto& options = finding.options;
  const auto per_cent_of = [&](std::int64_t units) { return Decimal::from_units(units).to_text() + "%"; };
  std::string bounds;
  if (options.below) bounds = "below " + per_cent_of(*options.below);
  if (options.above) bounds += (bounds.empty() ? "" : " and ") + ("above " + per_cent_of(*options.above));
  std::set<std::uint32_t> customers;
  for (const std::uint32_t pair : *finding.rows) customers.insert(finding.levels->paid()[pair].customer);
  const std::uint64_t all = finding.product ? finding.levels->paid().of_product(*finding.product).size()
                                            : finding.levels->paid().size();
  return fmt::format("{} of {} average prices {} {} of {}; {} paid {}.",
                     with_thousands(static_cast<std::int64_t>(finding.rows->size())),
                     with_thousands(static_cast<std::int64_t>(all)),
                     finding.rows->size() == 1 ? "lies" : "lie", bounds, finding.compared_with(),
                     counted(customers.size(), "customer"), finding.rows->size() == 1 ? "it" : "them");
}

std::string largest_gap(const Finding& finding, const CustomerPrices& most) {
  const std::string who = analysis::member_title(finding.daybook(), daybook::Level::customer, most.customer);
  return fmt::format("{} paid {} less than {} for the same pieces", who,
                     money(finding, static_cast<double>(most.gap)),
                     finding.options.against == Against::others ? "others"
                     : finding.options.against == Against::all  ? "the average"
                                                                : "list prices ask");
}

std::vector<std::string> product_headline(const Finding& finding) {
  const ProductPrices& prices = finding.levels->product(*finding.product);
  const std::string what =
      analysis::member_title(finding.daybook(), daybook::Level::product, *finding.product);
  const auto text = [](std::int64_t units) { return with_thousands(Decimal::from_units(units), 2); };
  const std::string half = prices.lower_quartile == prices.upper_quartile
                               ? fmt::format("at least half of them {}", text(prices.median))
                               : fmt::format("half of them between {} and {}", text(prices.lower_quartile),
                                             text(prices.upper_quartile));
  std::vector<std::string> headline = {
      fmt::format("{}: {} paid {} on average; {}.", what, counted(prices.customers, "customer"),
                  money(finding, static_cast<double>(prices.average())), half)};
  if (!finding.levels->is_judged(*finding.product)) {
    headline.push_back(fmt::format("Fewer than {} customers bought it: too few to say what a quantity costs.",
                                   finding.options.at_least));
  } else {
    const daybook::Run run = finding.levels->paid().of_product(*finding.product);
    std::uint64_t low = 0;
    for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
      low += finding.levels->unexplained(pair) <= PriceRules::kClearlyLess ? 1U : 0U;
    headline.push_back(fmt::format("{} ({}) paid at least 5% less than customers who buy as much of it.",
                                   counted(low, "of these customers", "of these customers"),
                                   percent(static_cast<double>(low) / prices.customers)));
    const auto& steps = prices.expected.steps();
    if (steps.size() > 1 && !finding.has_bounds())  // three sentences are enough
      headline.insert(headline.begin() + 1,
                      fmt::format("Who buys {} pieces or more in all usually pays {} less than who buys few.",
                                  with_thousands(Decimal::from_units(steps.back().begins), -1),
                                  percent(1 - steps.back().level / steps.front().level)));
  }
  return headline;
}

constexpr std::size_t kMostBars = 15;

/// Customers as bars of money.
template <class Money>
result::Figure bars(const Finding& finding, const std::vector<const CustomerPrices*>& shown,
                    const Money& money_of) {
  result::Figure figure;
  figure.kind = result::Figure::Kind::ranked_bars;
  TextArray names;
  std::vector<std::int64_t> values;
  for (std::size_t i = 0; i < shown.size(); ++i) {
    names.push_back(analysis::member_title(finding.daybook(), daybook::Level::customer, shown[i]->customer));
    values.push_back(money_of(*shown[i]));
    if (shown[i]->reason == PriceReason::unexplained) figure.noticed.push_back(i);
  }
  figure.marks.columns = {result::text_column("customer", "The customer.", std::move(names)),
                          result::integer_column("gap", result::Unit::money, "Money.", std::move(values))};
  figure.marks.columns.back().places = 2;
  figure.value_title = finding.asked.currency.empty() ? "money" : finding.asked.currency;
  return figure;
}

std::vector<result::Figure> customer_figures(const Finding& finding) {
  std::vector<const CustomerPrices*> largest, unexplained;
  for (const CustomerPrices& each : *finding.customers) {
    if (each.gap > 0 && largest.size() < kMostBars) largest.push_back(&each);
    if (each.reason == PriceReason::unexplained) unexplained.push_back(&each);
  }
  std::vector<result::Figure> figures;
  if (!largest.empty()) {
    figures.push_back(bars(finding, largest, [](const CustomerPrices& each) { return each.gap; }));
    result::Figure& figure = figures.back();
    figure.title = largest_gap(finding, *largest.front()) + ".";
    figure.subtitle = fmt::format("Customers with the largest gap between what they paid and {}",
                                  finding.options.against == Against::others ? "what others pay for the same"
                                                                             : finding.compared_with());
    if (!figure.noticed.empty()) figure.subtitle += "; ochre: volume does not explain it";
  }
  if (unexplained.empty()) return figures;
  const auto missed = [](const CustomerPrices& each) {
    return static_cast<std::int64_t>(std::llround(each.at_expected - each.judged_amount));
  };
  std::stable_sort(unexplained.begin(), unexplained.end(),
                   [&](const auto* a, const auto* b) { return missed(*a) > missed(*b); });
  const std::size_t all = unexplained.size();
  unexplained.resize(std::min(all, kMostBars));
  figures.push_back(bars(finding, unexplained, missed));
  result::Figure& figure = figures.back();
  figure.part = "unexplained";
  figure.noticed.clear();
  figure.title = unexplained_sentence(finding);
  figure.subtitle = fmt::format("What they paid less than customers who buy as much{}",
                                all > kMostBars ? fmt::format("; the {} largest of {}", kMostBars, all) : "");
  return figures;
}

/// Those who pay least for their quantity, first of all those for whom most products say so.
std::vector<std::uint32_t> notable_pairs(const Finding& finding, daybook::Run run) {
  std::set<std::uint32_t> unexplained;
  for (const CustomerPrices& each : *finding.customers)
    if (each.reason == PriceReason::unexplained) unexplained.insert(each.customer);
  const PriceComparison& levels = *finding.levels;
  std::vector<std::uint32_t> pairs;
  for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
    if (levels.unexplained(pair) <= PriceRules::kClearlyLess &&
        unexplained.contains(levels.paid()[pair].customer))
      pairs.push_back(pair);
  std::stable_sort(pairs.begin(), pairs.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return levels.gap(a) > levels.gap(b); });
  return pairs;
}

result::Figure scatter(const Finding& finding) {
  const PriceComparison& levels = *finding.levels;
  const daybook::Run run = levels.paid().of_product(*finding.product);
  const std::vector<std::uint32_t> notable = notable_pairs(finding, run);
  constexpr std::size_t kMostNamed = 8;
  result::Figure figure;
  figure.kind = result::Figure::Kind::scatter;
  TextArray names;
  std::vector<std::int64_t> quantities;
  std::vector<double> indices;
  const auto add = [&](std::uint32_t pair, std::string_view name) {
    names.push_back(name);
    quantities.push_back(levels.paid()[pair].quantity);
    indices.push_back(levels.index(pair));
  };
  for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
    if (std::find(notable.begin(), notable.end(), pair) == notable.end()) add(pair, "");
  for (std::size_t i = 0; i < notable.size(); ++i) {
    figure.noticed.push_back(names.size());
    add(notable[i], i < kMostNamed ? analysis::member_title(finding.daybook(), daybook::Level::customer,
                                                            levels.paid()[notable[i]].customer)
                                   : "");
  }
  figure.marks.columns = {
      result::text_column("customer", "The customer, where named.", std::move(names)),
      result::share_column("index", "Price to the product's average.", std::move(indices)),
      result::integer_column("quantity", result::Unit::number, "Pieces.", std::move(quantities))};
  figure.along = 2;
  for (const statistics::FallingSteps::Step& step : levels.product(*finding.product).expected.steps())
    figure.steps.push_back({static_cast<double>(step.begins) / Decimal::kScale, step.level});
  figure.reference = 1;
  figure.reference_label = "usual at this quantity";
  figure.label_title = "pieces bought in all";
  figure.value_title = "price paid, as a share of the product's average";
  const std::vector<std::string> headline = product_headline(finding);
  figure.title = headline.back();
  figure.subtitle = fmt::format(
      "{}, {}; darker: several at one point{}",
      analysis::member_title(finding.daybook(), daybook::Level::product, *finding.product),
      counted(run.size(), "customer"), notable.empty() ? "" : "; ochre: pay less for most products");
  return figure;
}

result::Figure month_bars(const Finding& finding) {
  const result::Table& months = *finding.months;
  result::Figure figure;
  figure.part = "months";
  figure.axis = result::Figure::Axis::months;
  figure.marks.columns = {months.columns[1], months.columns[5]};
  figure.value_title =
      finding.asked.currency.empty() ? "average price" : "average price, " + finding.asked.currency;
  const result::TableColumn& prices = months.columns[5];
  const auto price = [&](std::size_t row) {
    return money(finding, static_cast<double>(prices.integer(row)));
  };
  figure.title = months.rows() < 2
                     ? fmt::format("Average price {}.", price(0))
                     : fmt::format("Average price {} in {}, {} in {}.", price(0), months.columns[1].text(0),
                                   price(months.rows() - 1), months.columns[1].text(months.rows() - 1));
  figure.subtitle =
      fmt::format("{}; amount by pieces, by month",
                  analysis::member_title(finding.daybook(), daybook::Level::product, *finding.product));
  return figure;
}

}  // namespace

std::vector<std::string> headline_of(const Finding& finding) {
  std::vector<std::string> headline;
  if (finding.product)
    headline = product_headline(finding);
  else if (any_judged(*finding.levels))
    headline = {unexplained_sentence(finding), volume_sentence(finding)};
  else
    headline = {fmt::format("No product has {} customers: too few to say what a quantity costs.",
                            finding.options.at_least)};
  if (finding.has_bounds())
    headline.push_back(bounds_sentence(finding));
  else if (!finding.product && !finding.customers->empty() && finding.customers->front().gap > 0)
    headline.push_back("Largest gap: " + largest_gap(finding, finding.customers->front()) + ".");
  return headline;
}

std::vector<result::Figure> figures_of(const Finding& finding) {
  if (!finding.product) return customer_figures(finding);
  return {scatter(finding), month_bars(finding)};
}

}  // namespace pear::prices
