#include "questions/together/figure.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/together/finding.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::together {
namespace {

/// The lower bound of the lift: the lower end of the share of the rarer item's baskets that contain the
/// other, divided by the expected share. So small numbers with large lifts do not rank before large ones.
double least_lift(const Counts& counts, const ItemPair& pair) {
  const std::uint32_t few = std::min(counts.baskets.counts[pair.a], counts.baskets.counts[pair.b]);
  return statistics::wilson_interval(pair.both, few).low * few / pair.test.expected;
}

/// By the lower bound of the lift, the largest first.
std::vector<const ItemPair*> strongest(const Counts& counts, std::size_t most) {
  std::vector<const ItemPair*> found = found_pairs(counts);
  std::stable_sort(found.begin(), found.end(), [&](const ItemPair* a, const ItemPair* b) {
    return least_lift(counts, *a) > least_lift(counts, *b);
  });
  found.resize(std::min(found.size(), most));
  return found;
}

std::string strongest_sentence(const Counts& counts) {
  const ItemPair& pair = *strongest(counts, 1).front();
  return fmt::format("Strongest pair: {} and {}, {:.1f} times as often together as expected.",
                     counts.title(pair.a), counts.title(pair.b), Counts::lift(pair));
}

std::string baskets_text(const Counts& counts) {
  return fmt::format("{} ({})", counted(counts.baskets.size(), "basket"),
                     mining::describe_baskets(counts.options.within));
}

/// The lift in units of Decimal, without rounding up.
std::int64_t lift_units(const ItemPair& pair) {
  return static_cast<std::int64_t>(Counts::lift(pair) * Decimal::kScale);
}

result::Figure lift_bars(const Counts& counts) {
  constexpr std::size_t kMost = 15;
  using Row = const ItemPair*;
  std::vector<Row> shown = strongest(counts, kMost);
  std::stable_sort(shown.begin(), shown.end(),
                   [](Row a, Row b) { return Counts::lift(*a) > Counts::lift(*b); });
  const analysis::ItemLabels items = counts.names();
  result::Figure figure;
  figure.subtitle = fmt::format(
      "Of {} found, those with the largest lower bounds of the lift (baskets with both in brackets); {}",
      counted(found_pairs(counts).size(), "pair"), baskets_text(counts));
  analysis::TableBuilder builder(figure.marks, shown);
  builder.text("pair", "The pair.", [&](Row pair) {
    return counts.about ? items.title(pair->b) : items.name(pair->a) + " + " + items.name(pair->b);
  });
  builder.integer(result::Unit::number, "lift", "Lift.", [](Row pair) { return lift_units(*pair); }).places =
      1;
  builder.count("baskets", "Baskets with both.", [](Row pair) { return pair->both; });
  result::RankedBarChart chart;
  chart.label = "pair";
  chart.value = "lift";
  chart.basis = "baskets";
  chart.value_title = "lift: times as often as expected by chance";
  figure.chart = std::move(chart);
  return figure;
}

/// The most frequent items, in their order.
std::vector<std::uint32_t> most_frequent_items(const Counts& counts, std::size_t most) {
  const auto& baskets = counts.baskets.counts;
  std::vector<std::uint32_t> items;
  for (std::uint32_t code = 0; code < baskets.size(); ++code)
    if (baskets[code] > 0) items.push_back(code);
  std::stable_sort(items.begin(), items.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return baskets[a] > baskets[b]; });
  items.resize(std::min(items.size(), most));
  std::sort(items.begin(), items.end());
  return items;
}

/// Every pair of the most frequent items.
result::Figure heat_map(const Counts& counts) {
  constexpr std::size_t kMost = 12;
  const std::vector<std::uint32_t> items = most_frequent_items(counts, kMost);
  const auto lift = [&](std::uint32_t row, std::uint32_t column) {
    const auto found = std::find_if(counts.pairs.begin(), counts.pairs.end(), [&](const ItemPair& pair) {
      return std::minmax(pair.a, pair.b) == std::minmax(row, column);
    });
    return found == counts.pairs.end() ? result::kEmptyCell : lift_units(*found);
  };
  result::Figure figure;
  figure.part = "map";
  figure.subtitle = fmt::format(
      "Lift of each pair of the {} most frequent {}; 1.0 is expected by chance; empty: in fewer than {}; {}",
      items.size(), analysis::plural_of(counts.item), counted(counts.least, "basket"), baskets_text(counts));
  analysis::TableBuilder builder(figure.marks, items);
  builder.text("item", "One of the two.", [&](std::uint32_t code) { return counts.title(code); });
  result::HeatMap chart{"item", {}, "lift"};
  for (const std::uint32_t column : items) {
    std::vector<std::int64_t> lifts;
    for (const std::uint32_t row : items) lifts.push_back(lift(row, column));
    result::TableColumn values = result::integer_column("", result::Unit::number, "Lift.", std::move(lifts));
    values.places = 1;
    chart.series.push_back(
        analysis::add_series(figure.marks, expression::label_text(counts.key, column), std::move(values)));
  }
  figure.chart = std::move(chart);
  return figure;
}

/// The strongest pairs as lines between items.
result::Figure network(const Counts& counts) {
  constexpr std::size_t kMost = 24;
  using Row = const ItemPair*;
  const std::vector<Row> pairs = strongest(counts, kMost);
  result::Figure figure;
  figure.part = "network";
  figure.subtitle = fmt::format("The {} strongest pairs; the thicker the line, the larger the lift; {}",
                                pairs.size(), baskets_text(counts));
  analysis::TableBuilder builder(figure.marks, pairs);
  builder.text("a", "One of the two.", [&](Row pair) { return counts.title(pair->a); });
  builder.integer(result::Unit::number, "lift", "Lift.", [](Row pair) { return lift_units(*pair); });
  builder.text("b", "The other.", [&](Row pair) { return counts.title(pair->b); });
  figure.chart = result::NetworkChart{"a", "b", "lift"};
  return figure;
}

}  // namespace

std::vector<result::Figure> figures_of(const Counts& counts) {
  const std::vector<std::string> headline = headline_of(counts);
  if (found_pairs(counts).empty()) return {};
  std::vector<result::Figure> figures = {lift_bars(counts)};
  if (!counts.about) figures.push_back(heat_map(counts));
  if (!counts.about && found_pairs(counts).size() > 2) figures.push_back(network(counts));
  for (result::Figure& figure : figures) figure.title = strongest_sentence(counts);
  if (counts.about)
    figures.front().title = companion_sentence(counts);
  else
    figures[1].title = headline.front();
  return figures;
}

}  // namespace pear::together
