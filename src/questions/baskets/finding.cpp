// What baskets says: headline and figures.
#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/baskets/tables.hpp"

namespace pear::baskets {
namespace {

std::string money(const Finding& finding, std::int64_t units) {
  return with_thousands(Decimal::from_units(units), 2) +
         (finding.asked.currency.empty() ? "" : " " + finding.asked.currency);
}

/// The size that at least half of the baskets do not exceed.
std::size_t median_size(const BasketValues& facts) {
  std::uint64_t so_far = 0;
  std::size_t size = 0;
  while (2 * so_far < facts.baskets) so_far += facts.by_size[++size];
  return size;
}

std::string sizes_sentence(const Finding& finding) {
  const BasketValues& facts = finding.facts;
  return fmt::format("{} of {} baskets ({}) hold one {} only; half hold {} or fewer.",
                     analysis::number(facts.by_size[1]), analysis::number(facts.baskets),
                     analysis::per_cent(facts.by_size[1], facts.baskets), finding.item, median_size(facts));
}

/// Candidates for a promotion: those that earn least themselves first; without costs the surest pull first.
std::vector<std::uint32_t> candidates(const Finding& finding) {
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code < finding.facts.items.size(); ++code)
    if (finding.is_candidate(code)) codes.push_back(code);
  const auto& items = finding.facts.items;
  const auto rate = [&](std::uint32_t code) {
    return rate_of(items[code].own.margin, items[code].own.sales);
  };
  std::stable_sort(codes.begin(), codes.end(), [&](std::uint32_t a, std::uint32_t b) {
    return finding.facts.has_costs ? rate(a) < rate(b) : *items[a].pull_low > *items[b].pull_low;
  });
  return codes;
}

std::string pull_sentence(const Finding& finding) {
  const std::vector<std::uint32_t> codes = candidates(finding);
  if (codes.empty())
    return fmt::format("No {}{} is surely bought with more than others are.", finding.item,
                       finding.facts.has_costs ? " that earns less than others itself" : "");
  const PulledBaskets& best = finding.facts.items[codes.front()];
  const std::string own = money(finding, best.own_value.mean(best.own.baskets).value_or(Decimal()).units());
  return fmt::format(
      "{} brings {} {} a basket itself, and what is bought with it {} more than baskets of that size and "
      "month do "
      "({} to {}).",
      finding.title(codes.front()), own, finding.value(), money(finding, best.pull->units()),
      with_thousands(*best.pull_low, 2), with_thousands(*best.pull_high, 2));
}

std::string discount_sentence(const Finding& finding) {
  const std::vector<std::uint32_t> codes = candidates(finding);
  if (!finding.options.discount || codes.empty()) return "";
  const PulledBaskets& item = finding.facts.items[codes.front()];
  const Discount discount(item, *finding.options.discount);
  if (!discount.baskets) return "";
  const auto more = static_cast<std::uint64_t>(*discount.baskets);
  return fmt::format("{}% off its price is paid for by {} with it, beside the {} ({}).",
                     Decimal::from_units(*finding.options.discount).to_text(), counted(more, "more basket"),
                     analysis::number(item.own.baskets), analysis::per_cent(more, item.own.baskets));
}

/// Items by their own margin rate and what the rest of their baskets brings.
result::Figure scatter(const Finding& finding) {
  const auto& items = finding.facts.items;
  const std::vector<std::uint32_t> noticed = candidates(finding);
  result::Figure figure;
  figure.kind = result::Figure::Kind::scatter;
  figure.part = "pull";
  TextArray names;
  std::vector<std::int64_t> rest, own;
  std::vector<double> rates;
  for (std::uint32_t code = 0; code < items.size(); ++code) {
    if (items[code].own.baskets < static_cast<std::uint64_t>(finding.options.at_least)) continue;
    const auto found = std::find(noticed.begin(), noticed.end(), code);
    constexpr std::ptrdiff_t kMostNamed = 10;
    if (found != noticed.end()) figure.noticed.push_back(names.size());
    names.push_back(found != noticed.end() && found - noticed.begin() < kMostNamed ? finding.title(code)
                                                                                   : "");
    rest.push_back(finding.companions_per_basket(code));
    own.push_back(items[code].own_value.mean(items[code].own.baskets).value_or(Decimal()).units());
    rates.push_back(rate_of(items[code].own.margin, items[code].own.sales));
  }
  figure.marks.columns = {
      result::text_column("item", "The item, where named.", std::move(names)),
      result::integer_column("rest", result::Unit::money, "By basket, of the rest.", std::move(rest)),
      finding.facts.has_costs
          ? result::share_column("rate", "Own margin by own sales.", std::move(rates))
          : result::integer_column("own", result::Unit::money, "By basket, of itself.", std::move(own))};
  figure.along = 2;
  const std::string unit = finding.asked.currency.empty() ? "" : ", " + finding.asked.currency;
  figure.label_title = finding.facts.has_costs
                           ? fmt::format("margin of the {} itself, as a share of its sales", finding.item)
                           : fmt::format("sales of the {} itself, by basket{}", finding.item, unit);
  figure.value_title = fmt::format("{} of the rest of its baskets, by basket{}", finding.value(), unit);
  figure.title = pull_sentence(finding);
  figure.subtitle = fmt::format(
      "Each {} with {} baskets or more{}", finding.item, finding.options.at_least,
      noticed.empty() ? "" : "; ochre: earns less than others itself, what is bought with it surely more");
  return figure;
}

/// The commonest make-ups, darker the more of their sales is margin.
result::Figure make_up_bars(const Finding& finding) {
  constexpr std::size_t kMost = 15;
  const auto& rows = finding.facts.make_ups;
  result::Figure figure;
  figure.kind = result::Figure::Kind::ranked_bars;
  TextArray names;
  std::vector<std::int64_t> baskets;
  std::vector<double> rates;
  for (std::size_t i = 0; i < std::min(kMost, rows.size()); ++i) {
    std::vector<std::string> parts;
    for (const std::uint32_t code : rows[i].codes) parts.push_back(finding.title(code));
    names.push_back(join(parts, " + "));
    baskets.push_back(static_cast<std::int64_t>(rows[i].sum.baskets));
    rates.push_back(rate_of(rows[i].sum.margin, rows[i].sum.sales));
  }
  figure.marks.columns = {
      result::text_column("make_up", "What is in the basket.", std::move(names)),
      result::integer_column("baskets", result::Unit::count, "How many.", std::move(baskets))};
  figure.value_title = "baskets";
  if (finding.facts.has_costs) {
    figure.marks.columns.push_back(result::share_column("margin_rate", "margin by sales.", std::move(rates)));
    figure.totals = 2;
    figure.shaded = 2;
  }
  figure.title = sizes_sentence(finding);
  figure.subtitle =
      fmt::format("The commonest of {} make-ups{}; {}", analysis::number(rows.size()),
                  finding.facts.has_costs ? ", darker the higher the margin rate (in brackets)" : "",
                  counted(finding.facts.baskets, "basket"));
  return figure;
}

}  // namespace

std::vector<std::string> headline_of(const Finding& finding) {
  std::vector<std::string> headline = {sizes_sentence(finding), pull_sentence(finding)};
  if (const std::string discount = discount_sentence(finding); !discount.empty())
    headline.push_back(discount);
  return headline;
}

std::vector<result::Figure> figures_of(const Finding& finding) {
  std::vector<result::Figure> figures = {make_up_bars(finding)};
  result::Figure pull = scatter(finding);
  if (pull.marks.rows() > 1) figures.push_back(std::move(pull));
  return figures;
}

}  // namespace pear::baskets
