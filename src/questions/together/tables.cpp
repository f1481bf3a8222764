#include "questions/together/tables.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::together {
namespace {

/// "P1 + P31", or with names instead of ids.
std::string joined(const Counts& counts, std::span<const std::uint32_t> codes, bool names) {
  std::vector<std::string> parts;
  for (const std::uint32_t code : codes)
    parts.push_back(names ? counts.names().name(code) : expression::label_text(counts.key, code));
  return join(parts, " + ");
}

/// Rows of pairs in another order, by columns of their table.
OrError<void> sort_pairs(result::Table& table, const std::vector<expression::SortKey>& keys) {
  std::vector<std::string> names;
  for (const result::TableColumn& column : table.columns) names.push_back(column.name);
  std::vector<std::pair<std::size_t, bool>> by;
  for (const expression::SortKey& key : keys) {
    const auto found = std::find(names.begin(), names.end(), snake_case(key.tree.text));
    if (found == names.end())
      return usage_error(fmt::format("--sort: there is no column {}.{}", in_quotes(key.tree.text),
                                     did_you_mean(key.tree.text, names)));
    by.emplace_back(static_cast<std::size_t>(found - names.begin()), key.descending);
  }
  if (!by.empty()) result::sort_rows(table, by);
  return {};
}

/// The lift of a set: its support divided by the product of the shares of each item.
double lift_of(const Counts& counts, std::size_t set) {
  double expected = 1;
  for (const std::uint32_t code : counts.sets.codes(set)) expected *= counts.count(code) / counts.size();
  return counts.sets.baskets(set) / counts.size() / expected;
}

double confidence(const ItemRule& rule) { return static_cast<double>(rule.baskets) / rule.given_baskets; }

}  // namespace

OrError<result::Table> pairs_table(const Counts& counts) {
  result::Table table{"",
                      "Pairs",
                      fmt::format("One row for each pair of {} that baskets contain together, each once.",
                                  analysis::plural_of(counts.item)),
                      {}};
  analysis::TableBuilder builder(table, counts.pairs);
  const analysis::ItemLabels items = counts.names();
  items.add_columns(items.column() + "_a", fmt::format("The {}.", counts.item),
                    builder.codes([](const ItemPair& p) { return p.a; }), table.columns);
  items.add_columns(items.column() + "_b", "The other one.",
                    builder.codes([](const ItemPair& p) { return p.b; }), table.columns);
  const auto& baskets = counts.baskets.counts;
  builder.count("both", "Baskets with both.", [](const ItemPair& p) { return p.both; }).always_shown = true;
  builder.count("a", "Baskets with the first.", [&](const ItemPair& p) { return baskets[p.a]; });
  builder.count("b", "Baskets with the other.", [&](const ItemPair& p) { return baskets[p.b]; });
  builder.share("support", "Baskets with both as a share of all baskets.",
                [&](const ItemPair& p) { return p.both / counts.size(); });
  builder.share("confidence_ab", "Share of the baskets with the first that also contain the other.",
                [&](const ItemPair& p) { return p.both / counts.count(p.a); });
  builder.share("confidence_ba", "Share of the baskets with the other that also contain the first.",
                [&](const ItemPair& p) { return p.both / counts.count(p.b); });
  builder
      .number("lift", "both / expected: 1 if the two are independent.", 2,
              [&](const ItemPair& p) { return counts.lift(p); })
      .always_shown = true;
  builder.number("expected", "Baskets with both expected by chance: a x b / all.", 1,
                 [&](const ItemPair& p) { return counts.count(p.a) * counts.count(p.b) / counts.size(); });
  builder.probability(
      "p_value",
      "Probability of this many or more together if the two are independent (Fisher's exact test, "
      "one-sided).",
      [](const ItemPair& p) { return p.p; });
  builder
      .probability("q_value", "False discovery rate among pairs with a p_value this small.",
                   [](const ItemPair& p) { return p.q; })
      .always_shown = true;
  builder.money("amount_together", "Amount of the two in baskets with both.",
                [](const ItemPair& p) { return analysis::in_units(p.amount); });
  if (counts.has_margins)
    builder.money("margin_together", "Margin of the two in baskets with both.",
                  [](const ItemPair& p) { return analysis::in_units(p.margin); });
  for (const ItemPair& pair : counts.pairs) table.faint.push_back(counts.is_found(pair) ? 0 : 1);
  PEAR_TRY(sort_pairs(table, counts.options.sort));
  return table;
}

result::Table sets_table(const Counts& counts) {
  result::Table table{"sets",
                      "Larger sets",
                      fmt::format("One row for each set of {} {} and more, up to {}.", counts.options.size,
                                  analysis::plural_of(counts.item), counts.options.largest),
                      {}};
  const analysis::NumberedRows rows{counts.sets.size()};
  analysis::TableBuilder builder(table, rows);
  builder
      .text(analysis::plural_of(counts.names().column()), "Joined by \" + \", in natural order.",
            [&](std::size_t set) { return joined(counts, counts.sets.codes(set), false); })
      .always_shown = true;
  builder.count("size", "How many.", [&](std::size_t set) { return counts.sets.codes(set).size(); });
  builder.count("baskets", "Baskets that contain all of them.",
                [&](std::size_t set) { return counts.sets.baskets(set); });
  builder.share("support", "These as a share of all baskets.",
                [&](std::size_t set) { return counts.sets.baskets(set) / counts.size(); });
  builder.number("lift", "support / product of the shares of each item.", 1,
                 [&](std::size_t set) { return lift_of(counts, set); });
  if (counts.names().are_named())
    builder.text("names", "Their names.",
                 [&](std::size_t set) { return joined(counts, counts.sets.codes(set), true); });
  table.most_shown = 5;
  return table;
}

result::Table rules_table(const Counts& counts) {
  result::Table table{"rules",
                      "Rules",
                      fmt::format("One row for each rule: baskets with the {} given also contain the other.",
                                  analysis::plural_of(counts.item)),
                      {}};
  const bool are_named = counts.names().are_named();
  const auto also = [](const ItemRule& rule) { return rule.also; };
  analysis::TableBuilder builder(table, counts.rules);
  builder
      .text("given", "Joined by \" + \", in natural order.",
            [&](const ItemRule& rule) { return joined(counts, rule.given, false); })
      .always_shown = true;
  if (are_named)
    builder.text("given_names", "Their names.",
                 [&](const ItemRule& rule) { return joined(counts, rule.given, true); });
  builder.key("also", "The item that these baskets also contain.", counts.key, also);
  if (are_named) {
    builder.names(counts.input.daybook, counts.key, also);
    table.columns.back().name = "also_name";
    table.columns.back().always_shown = false;
  }
  builder.count("baskets", "Baskets with all of them.", [](const ItemRule& rule) { return rule.baskets; })
      .always_shown = true;
  builder.share("support", "These as a share of all baskets.",
                [&](const ItemRule& rule) { return rule.baskets / counts.size(); });
  builder
      .share("confidence", "Share of the baskets with those given that also contain the other.", confidence)
      .always_shown = true;
  builder.number("lift", "confidence / the other's share of all baskets.", 2, [&](const ItemRule& rule) {
    return confidence(rule) * counts.size() / counts.count(rule.also);
  });
  builder.probability("p_value", "Fisher's exact test of those given and the other, one-sided.",
                      [](const ItemRule& rule) { return rule.p; });
  builder.probability("q_value", "False discovery rate among rules with a p_value this small.",
                      [](const ItemRule& rule) { return rule.q; });
  for (const ItemRule& rule : counts.rules)
    table.faint.push_back(rule.q <= statistics::kFalseDiscovery ? 0 : 1);
  table.most_shown = 8;
  return table;
}

result::Table items_table(const Counts& counts) {
  const auto& baskets = counts.baskets.counts;
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code < baskets.size(); ++code)
    if (baskets[code] > 0 && counts.about.value_or(code) == code) codes.push_back(code);
  std::stable_sort(codes.begin(), codes.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return baskets[a] > baskets[b]; });
  const bool of_products = counts.names().are_products();
  const auto itself = [](std::uint32_t code) { return code; };
  result::Table table{snake_case(analysis::plural_of(counts.item)),
                      "Single-item baskets",
                      fmt::format("One row for each {}.", counts.item),
                      {}};
  analysis::TableBuilder builder(table, codes);
  builder.key(of_products ? "product_id" : counts.names().column(), fmt::format("The {}.", counts.item),
              counts.key, itself);
  if (of_products) builder.names(counts.input.daybook, counts.key, itself);
  builder.count("baskets", "Baskets with it.", [&](std::uint32_t code) { return baskets[code]; });
  builder.share("share", "These as a share of all baskets.",
                [&](std::uint32_t code) { return counts.count(code) / counts.size(); });
  builder.count("single_item", "Of these, baskets with nothing else.",
                [&](std::uint32_t code) { return counts.baskets.single_item[code]; });
  builder.share("single_item_share", "These as a share of its baskets.",
                [&](std::uint32_t code) { return counts.baskets.single_item[code] / counts.count(code); });
  table.most_shown = 5;
  return table;
}

}  // namespace pear::together
