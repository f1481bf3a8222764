#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/together/finding.hpp"

namespace pear::together {
namespace {

std::int64_t in_units(double value) { return std::llround(value * Decimal::kScale); }

std::int64_t units_of(const DecimalSum& sum) {
  return sum.total() ? sum.total()->units() : result::kEmptyCell;
}

/// "P1 + P31", or with names in place of ids.
std::string joined(const Finding& finding, std::span<const std::uint32_t> codes, bool names) {
  std::vector<std::string> parts;
  for (const std::uint32_t code : codes)
    parts.push_back(names ? finding.names().name(code) : expression::label_text(finding.key, code));
  return join(parts, " + ");
}

}  // namespace

result::Table pairs_table(const Finding& finding) {
  const auto& pairs = finding.pairs;
  result::Table table{"",
                      "Pairs",
                      fmt::format("One row for each pair of {} that baskets hold together, each once.",
                                  analysis::plural_of(finding.item)),
                      {}};
  auto& columns = table.columns;
  std::vector<std::uint32_t> a, b;
  for (const ItemPair& pair : pairs) a.push_back(pair.a), b.push_back(pair.b);
  const analysis::ItemLabels items = finding.names();
  items.add_columns(items.column() + "_a", fmt::format("The {}.", finding.item), std::move(a), columns);
  items.add_columns(items.column() + "_b", "The other one.", std::move(b), columns);
  const auto whole = [&](std::string name, result::Unit unit, std::string description,
                         auto of) -> result::TableColumn& {
    std::vector<std::int64_t> values;
    for (const ItemPair& pair : pairs) values.push_back(static_cast<std::int64_t>(of(pair)));
    columns.push_back(
        result::integer_column(std::move(name), unit, std::move(description), std::move(values)));
    return columns.back();
  };
  const auto fractions = [&](auto of) {
    std::vector<double> values;
    for (const ItemPair& pair : pairs) values.push_back(of(pair));
    return values;
  };
  const auto& counts = finding.baskets.counts;
  whole("both", result::Unit::count, "Baskets with both.", [](const ItemPair& p) {
    return p.both;
  }).always_shown = true;
  whole("a", result::Unit::count, "Baskets with the first.", [&](const ItemPair& p) { return counts[p.a]; });
  whole("b", result::Unit::count, "Baskets with the other.", [&](const ItemPair& p) { return counts[p.b]; });
  columns.push_back(
      result::share_column("support", "Baskets with both as a share of all baskets.",
                           fractions([&](const ItemPair& p) { return p.both / finding.size(); })));
  columns.push_back(
      result::share_column("confidence_ab", "Of the baskets with the first, the share that hold the other.",
                           fractions([&](const ItemPair& p) { return p.both / finding.count(p.a); })));
  columns.push_back(
      result::share_column("confidence_ba", "Of the baskets with the other, the share that hold the first.",
                           fractions([&](const ItemPair& p) { return p.both / finding.count(p.b); })));
  whole("lift", result::Unit::number, "both by expected: 1 where neither has to do with the other.",
        [&](const ItemPair& p) { return in_units(finding.lift(p)); })
      .always_shown = true;
  columns.back().places = 2;
  whole(
      "expected", result::Unit::number, "Baskets with both by chance: a x b / all.",
      [&](const ItemPair& p) { return in_units(finding.count(p.a) * finding.count(p.b) / finding.size()); });
  columns.back().places = 1;
  columns.push_back(
      result::chance_column("p_value", "Chance of so many together or more (Fisher's exact test, one-sided).",
                            fractions([](const ItemPair& p) { return p.p; })));
  columns.push_back(result::chance_column("q_value",
                                          "Rate of false discoveries among pairs with so small a p_value.",
                                          fractions([](const ItemPair& p) { return p.q; })));
  columns.back().always_shown = true;
  whole("amount_together", result::Unit::money, "Amount of the two in baskets with both.",
        [](const ItemPair& p) { return units_of(p.amount); });
  if (finding.has_margins)
    whole("margin_together", result::Unit::money, "Margin of the two in baskets with both.",
          [](const ItemPair& p) { return units_of(p.margin); });
  for (const ItemPair& pair : pairs) table.faint.push_back(finding.is_found(pair) ? 0 : 1);
  return table;
}

result::Table sets_table(const Finding& finding) {
  result::Table table{"sets",
                      "Larger sets",
                      fmt::format("One row for each set of {} {} and more, up to {}.", finding.options.size,
                                  analysis::plural_of(finding.item), finding.options.largest),
                      {}};
  TextArray ids, names;
  std::vector<std::int64_t> sizes, baskets, lifts;
  std::vector<double> supports;
  for (std::size_t set = 0; set < finding.sets.size(); ++set) {
    const auto codes = finding.sets.codes(set);
    ids.push_back(joined(finding, codes, false));
    if (finding.names().are_named()) names.push_back(joined(finding, codes, true));
    sizes.push_back(static_cast<std::int64_t>(codes.size()));
    baskets.push_back(finding.sets.baskets(set));
    supports.push_back(finding.sets.baskets(set) / finding.size());
    double expected = 1;
    for (const std::uint32_t code : codes) expected *= finding.count(code) / finding.size();
    lifts.push_back(in_units(supports.back() / expected));
  }
  table.columns = {
      result::text_column(analysis::plural_of(finding.names().column()),
                          "Joined by \" + \", in natural order.", std::move(ids)),
      result::integer_column("size", result::Unit::count, "How many.", std::move(sizes)),
      result::integer_column("baskets", result::Unit::count, "Baskets that hold all of them.",
                             std::move(baskets)),
      result::share_column("support", "These as a share of all baskets.", std::move(supports)),
      result::integer_column("lift", result::Unit::number,
                             "support by the product of the shares of each alone.", std::move(lifts))};
  table.columns.back().places = 1;
  table.columns.front().always_shown = true;
  if (finding.names().are_named())
    table.columns.push_back(result::text_column("names", "Their names.", std::move(names)));
  table.most_shown = 5;
  return table;
}

result::Table rules_table(const Finding& finding) {
  result::Table table{"rules",
                      "Rules",
                      fmt::format("One row for each rule: baskets with the {} given hold the other, too.",
                                  analysis::plural_of(finding.item)),
                      {}};
  TextArray given, names;
  std::vector<std::uint32_t> also;
  std::vector<std::int64_t> baskets, lifts;
  std::vector<double> supports, confidences, chances, found;
  for (const ItemRule& rule : finding.rules) {
    given.push_back(joined(finding, rule.given, false));
    names.push_back(joined(finding, rule.given, true));
    also.push_back(rule.also);
    baskets.push_back(rule.baskets);
    supports.push_back(rule.baskets / finding.size());
    confidences.push_back(static_cast<double>(rule.baskets) / rule.given_baskets);
    lifts.push_back(in_units(confidences.back() * finding.size() / finding.count(rule.also)));
    chances.push_back(rule.p);
    found.push_back(rule.q);
    table.faint.push_back(rule.q <= statistics::kFalseDiscovery ? 0 : 1);
  }
  auto& columns = table.columns;
  columns.push_back(result::text_column("given", "Joined by \" + \", in natural order.", std::move(given)));
  columns.back().always_shown = true;
  if (finding.names().are_named())
    columns.push_back(result::text_column("given_names", "Their names.", std::move(names)));
  columns.push_back(analysis::key_column("also", "What these baskets hold, too.", finding.key, also));
  if (finding.names().are_named()) {
    analysis::add_names(finding.asked.daybook, finding.key, also, columns);
    columns.back().name = "also_name";
    columns.back().always_shown = false;
  }
  columns.push_back(result::integer_column("baskets", result::Unit::count, "Baskets with all of them.",
                                           std::move(baskets)));
  columns.back().always_shown = true;
  columns.push_back(result::share_column("support", "These as a share of all baskets.", std::move(supports)));
  columns.push_back(result::share_column("confidence",
                                         "Of the baskets with those given, the share that hold the other.",
                                         std::move(confidences)));
  columns.back().always_shown = true;
  columns.push_back(result::integer_column(
      "lift", result::Unit::number, "confidence by the other's share of all baskets.", std::move(lifts)));
  columns.back().places = 2;
  columns.push_back(result::chance_column(
      "p_value", "Fisher's exact test of those given and the other, one-sided.", std::move(chances)));
  columns.push_back(result::chance_column(
      "q_value", "Rate of false discoveries among rules with so small a p_value.", std::move(found)));
  table.most_shown = 8;
  return table;
}

result::Table items_table(const Finding& finding) {
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code < finding.baskets.counts.size(); ++code)
    if (finding.baskets.counts[code] > 0 && finding.about.value_or(code) == code) codes.push_back(code);
  std::stable_sort(codes.begin(), codes.end(), [&](std::uint32_t a, std::uint32_t b) {
    return finding.baskets.counts[a] > finding.baskets.counts[b];
  });
  std::vector<std::int64_t> baskets, alone;
  std::vector<double> shares, alone_shares;
  for (const std::uint32_t code : codes) {
    baskets.push_back(finding.baskets.counts[code]);
    alone.push_back(finding.baskets.alone[code]);
    shares.push_back(finding.count(code) / finding.size());
    alone_shares.push_back(finding.baskets.alone[code] / finding.count(code));
  }
  std::string plural = analysis::plural_of(finding.item);
  result::Table table{
      snake_case(plural), "Alone or with others", fmt::format("One row for each {}.", finding.item), {}};
  const bool of_products = finding.names().are_products();
  table.columns.push_back(analysis::key_column(of_products ? "product_id" : finding.names().column(),
                                               fmt::format("The {}.", finding.item), finding.key, codes));
  if (of_products) analysis::add_names(finding.asked.daybook, finding.key, codes, table.columns);
  table.columns.push_back(
      result::integer_column("baskets", result::Unit::count, "Baskets with it.", std::move(baskets)));
  table.columns.push_back(
      result::share_column("share", "These as a share of all baskets.", std::move(shares)));
  table.columns.push_back(result::integer_column("alone", result::Unit::count,
                                                 "Of these, those with nothing else.", std::move(alone)));
  table.columns.push_back(
      result::share_column("alone_share", "These as a share of its baskets.", std::move(alone_shares)));
  table.most_shown = 5;
  return table;
}

}  // namespace pear::together
