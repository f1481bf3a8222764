#include "questions/together/tables.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::together {
namespace {

const std::string kExpected =
    "if items were put into baskets at random: each keeps its number of baskets, each basket its size.";
const std::string kProbability =
    "Probability of this many baskets or more if items were put into baskets at random (customers as "
    "clusters).";

/// "P1 + P31", or with names instead of ids.
std::string joined(const Counts& counts, std::span<const std::uint32_t> codes, bool names) {
  std::vector<std::string> parts;
  for (const std::uint32_t code : codes)
    parts.push_back(names ? counts.names().name(code) : expression::label_text(counts.key, code));
  return join(parts, " + ");
}

}  // namespace

result::Table pairs_table(const Counts& counts) {
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
  builder.number("lift", "both / expected: 1 if the two are independent.", 2, Counts::lift).always_shown =
      true;
  builder.number("expected", "Baskets with both, " + kExpected, 1,
                 [](const ItemPair& p) { return p.test.expected; });
  builder.probability("p_value", kProbability, [](const ItemPair& p) { return p.test.p; });
  builder
      .probability("q_value", "False discovery rate among pairs with a p_value this small.",
                   [](const ItemPair& p) { return p.test.q; })
      .always_shown = true;
  builder.money("amount_together", "Amount of the two in baskets with both.",
                [](const ItemPair& p) { return analysis::in_units(p.amount); });
  if (counts.has_margins)
    builder.money("margin_together", "Margin of the two in baskets with both.",
                  [](const ItemPair& p) { return analysis::in_units(p.margin); });
  for (const ItemPair& pair : counts.pairs) table.faint.push_back(Counts::is_found(pair) ? 0 : 1);
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
  builder.number("lift", "baskets / expected: 1 if all are independent.", 1,
                 [&](std::size_t set) { return counts.lift_of_set(set); });
  builder.number("expected", "Baskets with all of them, " + kExpected, 1,
                 [&](std::size_t set) { return counts.set_tests[set].expected; });
  builder.probability("p_value", kProbability, [&](std::size_t set) { return counts.set_tests[set].p; });
  builder
      .probability("q_value", "False discovery rate among sets of this size with a p_value this small.",
                   [&](std::size_t set) { return counts.set_tests[set].q; })
      .always_shown = true;
  if (counts.names().are_named())
    builder
        .text("names", "Their names.",
              [&](std::size_t set) { return joined(counts, counts.sets.codes(set), true); })
        .always_shown = true;
  for (std::size_t set = 0; set < counts.sets.size(); ++set)
    table.faint.push_back(counts.is_found_set(set) ? 0 : 1);
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
      .share("confidence", "Share of the baskets with those given that also contain the other.",
             [](const ItemRule& rule) { return rule.confidence(); })
      .always_shown = true;
  builder.number("lift", "baskets / expected: 1 if the other is independent of those given.", 2,
                 [](const ItemRule& rule) { return rule.lift(); });
  builder.number("expected", "Baskets with all of them if the other were independent of those given.", 1,
                 [](const ItemRule& rule) { return rule.test.expected; });
  builder.probability("p_value", kProbability, [](const ItemRule& rule) { return rule.test.p; });
  builder.probability("q_value", "False discovery rate among rules of this size with a p_value this small.",
                      [](const ItemRule& rule) { return rule.test.q; });
  for (const ItemRule& rule : counts.rules) table.faint.push_back(rule.is_found() ? 0 : 1);
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
