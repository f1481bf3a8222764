#include "questions/baskets/figure.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/baskets/finding.hpp"

namespace pear::baskets {
namespace {

result::ScatterChart scatter_chart(const Counts& counts) {
  const std::string unit = counts.input.currency.empty() ? "" : ", " + counts.input.currency;
  result::ScatterChart chart;
  chart.label = "item";
  chart.value = "rest";
  chart.along = counts.facts.has_costs ? "rate" : "own";
  chart.label_title = counts.facts.has_costs
                          ? fmt::format("margin of the {} itself, as a share of its sales", counts.item)
                          : fmt::format("sales of the {} itself, per basket{}", counts.item, unit);
  chart.value_title = fmt::format("{} of the other {} in its baskets, per basket{}", counts.value(),
                                  analysis::plural_of(counts.item), unit);
  return chart;
}

/// The headline about the first candidate in fewer words.
std::string pull_title(const Counts& counts, const std::vector<std::uint32_t>& noticed) {
  if (noticed.empty())
    return fmt::format("No {}{} pulls baskets that earn significantly more", counts.item,
                       counts.facts.has_costs ? " with a low margin" : "");
  return fmt::format("Baskets with {} earn {} more with their other {} than similar baskets",
                     counts.title(noticed.front()),
                     analysis::rounded_money_text(
                         std::llround(counts.facts.items[noticed.front()].pull->pull), counts.input.currency),
                     analysis::plural_of(counts.item));
}

/// Items by their own margin rate and the value of the rest of their baskets.
result::Figure scatter(const Counts& counts) {
  constexpr std::ptrdiff_t kMostNamed = 10;
  const auto& items = counts.facts.items;
  const std::vector<std::uint32_t> noticed = candidates(counts);
  result::ScatterChart chart = scatter_chart(counts);
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code < items.size(); ++code) {
    if (items[code].own.baskets < static_cast<std::uint64_t>(counts.options.at_least)) continue;
    if (std::find(noticed.begin(), noticed.end(), code) != noticed.end())
      chart.noticed.push_back(codes.size());
    codes.push_back(code);
  }
  result::Figure figure;
  figure.part = "pull";
  figure.title = pull_title(counts, noticed);
  figure.subtitle = fmt::format(
      "Each {} with at least {} baskets{}", counts.item, counts.options.at_least,
      noticed.empty() ? "" : "; ochre: low margin itself, but its baskets earn significantly more");
  analysis::TableBuilder builder(figure.marks, codes);
  builder.text("item", "The item, if named.", [&](std::uint32_t code) {
    const auto found = std::find(noticed.begin(), noticed.end(), code);
    return found != noticed.end() && found - noticed.begin() < kMostNamed ? counts.title(code) : "";
  });
  builder.money("rest", "Per basket, of the rest.",
                [&](std::uint32_t code) { return counts.companions_per_basket(code); });
  if (counts.facts.has_costs)
    builder.share("rate", "Own margin / own sales.",
                  [&](std::uint32_t code) { return items[code].own.margin_rate(); });
  else
    builder.money("own", "Per basket, of itself.", [&](std::uint32_t code) {
      return items[code].own_value.mean(items[code].own.baskets).value_or(Decimal()).units();
    });
  figure.chart = std::move(chart);
  return figure;
}

/// The most frequent compositions, darker the higher their margin rate.
result::Figure composition_bars(const Counts& counts) {
  constexpr std::size_t kMost = 15;
  const std::size_t all = counts.facts.compositions.size();
  const std::vector<Composition> rows(
      counts.facts.compositions.begin(),
      counts.facts.compositions.begin() + static_cast<std::ptrdiff_t>(std::min(kMost, all)));
  result::Figure figure;
  figure.title = sizes_sentence(counts);
  figure.subtitle =
      fmt::format("The most frequent of {} compositions{}; {}", analysis::number(all),
                  counts.facts.has_costs ? ", darker the higher the margin rate (in brackets)" : "",
                  counted(counts.facts.baskets, "basket"));
  analysis::TableBuilder builder(figure.marks, rows);
  builder.text("composition", "The items of the basket.", [&](const Composition& row) {
    std::vector<std::string> parts;
    for (const std::uint32_t code : row.codes) parts.push_back(counts.title(code));
    return join(parts, " + ");
  });
  builder.count("baskets", "The number of baskets.", [](const Composition& row) { return row.sum.baskets; });
  result::RankedBarChart chart;
  chart.label = "composition";
  chart.value = "baskets";
  chart.value_title = "baskets";
  if (counts.facts.has_costs) {
    builder.share("margin_rate", "margin / sales of lines with a known cost.",
                  [](const Composition& row) { return row.sum.margin_rate(); });
    chart.basis = chart.shade = "margin_rate";
  }
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace

std::vector<result::Figure> figures_of(const Counts& counts) {
  std::vector<result::Figure> figures = {composition_bars(counts)};
  if (!counts.facts.has_pulls) return figures;
  result::Figure pull = scatter(counts);
  if (pull.marks.rows() > 1) figures.push_back(std::move(pull));
  return figures;
}

}  // namespace pear::baskets
