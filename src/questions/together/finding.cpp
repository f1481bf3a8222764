// What together says: headline and figures.
#include "questions/together/finding.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::together {
namespace {

std::string percent(double share) { return fmt::format("{:.1f}%", 100 * share); }

/// Pairs that chance would not give, in the order of the main table.
std::vector<const ItemPair*> found_pairs(const Finding& finding) {
  std::vector<const ItemPair*> found;
  for (const ItemPair& pair : finding.pairs)
    if (finding.is_found(pair)) found.push_back(&pair);
  return found;
}

/// The least lift that the baskets seen leave likely: the lower end of the share of the rarer item's baskets
/// that hold the other, by the other's share. Small numbers with large lifts do not go before large ones.
double sure_lift(const Finding& finding, const ItemPair& pair) {
  const auto [few, many] = std::minmax(finding.baskets.counts[pair.a], finding.baskets.counts[pair.b]);
  return statistics::wilson_interval(pair.both, few).low * finding.size() / many;
}

/// By the strength of the bond, the surest first.
std::vector<const ItemPair*> strongest(const Finding& finding, std::size_t most) {
  std::vector<const ItemPair*> found = found_pairs(finding);
  std::stable_sort(found.begin(), found.end(), [&](const ItemPair* a, const ItemPair* b) {
    return sure_lift(finding, *a) > sure_lift(finding, *b);
  });
  found.resize(std::min(found.size(), most));
  return found;
}

std::string strongest_sentence(const Finding& finding) {
  const ItemPair& pair = *strongest(finding, 1).front();
  return fmt::format("Closest bond: {} and {}, {:.1f} times as often together as by chance.",
                     finding.title(pair.a), finding.title(pair.b), finding.lift(pair));
}

std::string pair_sentence(const Finding& finding, const ItemPair& pair) {
  return fmt::format(
      "Most often together: {} and {}, in {} of {} baskets ({}), {:.1f} times as often as by chance.",
      finding.title(pair.a), finding.title(pair.b), analysis::number(pair.both),
      analysis::number(finding.baskets.size()), percent(pair.both / finding.size()), finding.lift(pair));
}

/// The first of the rules that are no chance, of those with one item given where there is any: they stand in
/// order of what is sure.
const ItemRule* surest_rule(const Finding& finding) {
  const ItemRule* first = nullptr;
  for (const ItemRule& rule : finding.rules) {
    if (rule.q > statistics::kFalseDiscovery) continue;
    if (rule.given.size() == 1) return &rule;
    if (first == nullptr) first = &rule;
  }
  return first;
}

std::string rule_sentence(const Finding& finding, const ItemRule& rule) {
  std::vector<std::string> given;
  for (const std::uint32_t code : rule.given) given.push_back(finding.title(code));
  return fmt::format("Who takes {} takes {} too in {} of {} baskets ({}); of all baskets {} hold it.",
                     join(given, " and "), finding.title(rule.also), analysis::number(rule.baskets),
                     analysis::number(rule.given_baskets),
                     percent(static_cast<double>(rule.baskets) / rule.given_baskets),
                     percent(finding.count(rule.also) / finding.size()));
}

std::string about_sentence(const Finding& finding) {
  const std::uint32_t item = *finding.about;
  return fmt::format("{} stands in {} baskets, in {} of these alone ({}).", finding.title(item),
                     analysis::number(finding.baskets.counts[item]),
                     analysis::number(finding.baskets.alone[item]),
                     percent(finding.baskets.alone[item] / finding.count(item)));
}

std::string companion_sentence(const Finding& finding) {
  const std::string what = finding.title(*finding.about);
  const std::vector<const ItemPair*> found = found_pairs(finding);
  if (found.empty())
    return fmt::format("Nothing is bought with {} more often than chance would have it ({} tested).", what,
                       counted(finding.pairs_tested, "pair"));
  const ItemPair& best = *found.front();
  return fmt::format("{} goes with {}: in {} of its baskets ({}), {:.1f} times as often as by chance.", what,
                     finding.title(best.b), analysis::number(best.both),
                     percent(best.both / finding.count(best.a)), finding.lift(best));
}

std::string told_baskets(const Finding& finding) {
  return fmt::format("{} ({})", counted(finding.baskets.size(), "basket"),
                     mining::describe_baskets(finding.options.within));
}

result::Figure lift_bars(const Finding& finding) {
  constexpr std::size_t kMost = 15;
  result::Figure figure;
  figure.kind = result::Figure::Kind::ranked_bars;
  TextArray names;
  std::vector<std::int64_t> lifts, baskets;
  std::vector<const ItemPair*> shown = strongest(finding, kMost);
  std::stable_sort(shown.begin(), shown.end(),
                   [&](const ItemPair* a, const ItemPair* b) { return finding.lift(*a) > finding.lift(*b); });
  for (const ItemPair* pair : shown) {
    const analysis::ItemLabels items = finding.names();
    names.push_back(finding.about ? items.title(pair->b) : items.name(pair->a) + " + " + items.name(pair->b));
    baskets.push_back(pair->both);
    lifts.push_back(static_cast<std::int64_t>(finding.lift(*pair) * Decimal::kScale));
  }
  figure.marks.columns = {
      result::text_column("pair", "The pair.", std::move(names)),
      result::integer_column("lift", result::Unit::number, "Lift.", std::move(lifts)),
      result::integer_column("baskets", result::Unit::count, "Baskets with both.", std::move(baskets))};
  figure.marks.columns[1].places = 1;
  figure.totals = 2;
  figure.value_title = "lift: times as often as by chance";
  figure.subtitle = fmt::format("The surest of {} found: lift, and in brackets the baskets with both; {}",
                                counted(found_pairs(finding).size(), "pair"), told_baskets(finding));
  return figure;
}

/// Every pair of the commonest items.
result::Figure heat_map(const Finding& finding) {
  constexpr std::size_t kMost = 12;
  std::vector<std::uint32_t> items;
  for (std::uint32_t code = 0; code < finding.baskets.counts.size(); ++code)
    if (finding.baskets.counts[code] > 0) items.push_back(code);
  std::stable_sort(items.begin(), items.end(), [&](std::uint32_t a, std::uint32_t b) {
    return finding.baskets.counts[a] > finding.baskets.counts[b];
  });
  items.resize(std::min(items.size(), kMost));
  std::sort(items.begin(), items.end());
  result::Figure figure;
  figure.kind = result::Figure::Kind::heat_map;
  figure.part = "map";
  figure.values.clear();
  TextArray rows;
  for (const std::uint32_t code : items) rows.push_back(finding.title(code));
  figure.marks.columns = {result::text_column(finding.item, "One of the two.", std::move(rows))};
  for (const std::uint32_t column : items) {
    std::vector<std::int64_t> lifts;
    for (const std::uint32_t row : items) {
      const auto found = std::find_if(finding.pairs.begin(), finding.pairs.end(), [&](const ItemPair& pair) {
        return std::minmax(pair.a, pair.b) == std::minmax(row, column);
      });
      lifts.push_back(found == finding.pairs.end()
                          ? result::kEmptyCell
                          : static_cast<std::int64_t>(finding.lift(*found) * Decimal::kScale));
    }
    figure.values.push_back(figure.marks.columns.size());
    figure.marks.columns.push_back(result::integer_column(expression::label_text(finding.key, column),
                                                          result::Unit::number, "Lift.", std::move(lifts)));
    figure.marks.columns.back().places = 1;
  }
  figure.value_title = "lift";
  figure.subtitle = fmt::format(
      "Lift of each pair of the {} commonest {}; 1.0 is chance, empty: in fewer than {}; {}", items.size(),
      analysis::plural_of(finding.item), counted(finding.least, "basket"), told_baskets(finding));
  return figure;
}

/// The strongest pairs as lines between items.
result::Figure network(const Finding& finding) {
  constexpr std::size_t kMost = 24;
  result::Figure figure;
  figure.kind = result::Figure::Kind::network;
  figure.part = "network";
  TextArray from, to;
  std::vector<std::int64_t> lifts;
  for (const ItemPair* pair : strongest(finding, kMost)) {
    from.push_back(finding.title(pair->a));
    to.push_back(finding.title(pair->b));
    lifts.push_back(static_cast<std::int64_t>(finding.lift(*pair) * Decimal::kScale));
  }
  figure.marks.columns = {result::text_column("a", "One of the two.", std::move(from)),
                          result::integer_column("lift", result::Unit::number, "Lift.", std::move(lifts)),
                          result::text_column("b", "The other.", std::move(to))};
  figure.along = 2;
  figure.subtitle = fmt::format("The {} closest pairs, the broader the line the larger the lift; {}",
                                figure.marks.rows(), told_baskets(finding));
  return figure;
}

}  // namespace

std::vector<std::string> headline_of(const Finding& finding) {
  const std::vector<const ItemPair*> found = found_pairs(finding);
  std::vector<std::string> headline;
  if (finding.about) {
    headline = {about_sentence(finding), companion_sentence(finding)};
  } else if (found.empty()) {
    return {fmt::format("No two {} are bought together more often than chance would have it ({} tested).",
                        analysis::plural_of(finding.item), counted(finding.pairs_tested, "pair"))};
  } else {
    headline = {pair_sentence(finding, *found.front())};
  }
  if (const ItemRule* rule = surest_rule(finding)) headline.push_back(rule_sentence(finding, *rule));
  return headline;
}

std::vector<result::Figure> figures_of(const Finding& finding) {
  const std::vector<std::string> headline = headline_of(finding);
  if (found_pairs(finding).empty()) return {};
  std::vector<result::Figure> figures = {lift_bars(finding)};
  if (!finding.about) figures.push_back(heat_map(finding));
  if (!finding.about && found_pairs(finding).size() > 2) figures.push_back(network(finding));
  for (result::Figure& figure : figures) figure.title = strongest_sentence(finding);
  if (finding.about)
    figures.front().title = companion_sentence(finding);
  else
    figures[1].title = headline.front();
  return figures;
}

}  // namespace pear::together
