#include "questions/baskets/tables.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/baskets/finding.hpp"

namespace pear::baskets {
namespace {

/// The value of baskets: the same columns in all tables of baskets.
template <class Builder, class SumOf>
void add_sums(const Counts& counts, Builder& builder, const SumOf& sum_of) {
  const auto all = static_cast<double>(counts.facts.baskets);
  builder.count("baskets", "The number of baskets.", [&](const auto& row) { return sum_of(row).baskets; })
      .always_shown = true;
  builder.share("share", "These as a share of all baskets.",
                [&](const auto& row) { return static_cast<double>(sum_of(row).baskets) / all; });
  builder.rounded_money("sales", "The amount paid.",
                        [&](const auto& row) { return analysis::in_units(sum_of(row).sales); });
  if (counts.facts.has_costs) {
    builder.rounded_money("cost", "The cost, if known.",
                          [&](const auto& row) { return analysis::in_units(sum_of(row).cost); });
    builder.rounded_money("margin", "Sales minus cost, if costs are known.",
                          [&](const auto& row) { return analysis::in_units(sum_of(row).margin); });
    builder.share("margin_rate", "margin / sales of lines with a known cost.",
                  [&](const auto& row) { return sum_of(row).margin_rate(); });
  }
  builder
      .rounded_money("average_value", "sales / baskets.",
                     [&](const auto& row) { return mean_units(sum_of(row).sales, sum_of(row).baskets); })
      .always_shown = true;
}

}  // namespace

result::Table compositions_table(const Counts& counts) {
  const auto& rows = counts.facts.compositions;
  const std::string plural = analysis::plural_of(counts.item);
  result::Table table{"",
                      "Basket compositions",
                      fmt::format("One row for each set of distinct {} that forms a basket.", plural),
                      {}};
  analysis::TableBuilder builder(table, rows);
  builder
      .text(snake_case(plural), "Joined by \" + \", in natural order.",
            [&](const Composition& row) {
              std::vector<std::string> ids;
              for (const std::uint32_t code : row.codes)
                ids.push_back(expression::label_text(counts.key, code));
              return join(ids, " + ");
            })
      .always_shown = true;
  if (counts.names().are_named())
    builder.text("names", "The same, with names instead of ids.", [&](const Composition& row) {
      std::vector<std::string> names;
      for (const std::uint32_t code : row.codes) names.push_back(counts.names().name(code));
      return join(names, " + ");
    });
  builder.count("size", fmt::format("The number of distinct {}.", plural),
                [](const Composition& row) { return row.codes.size(); });
  add_sums(counts, builder, [](const Composition& row) -> const BasketSum& { return row.sum; });
  return table;
}

result::Table basket_sizes_table(const Counts& counts) {
  std::vector<std::size_t> sizes;
  for (std::size_t size = 1; size < counts.facts.by_size.size(); ++size)
    if (counts.facts.by_size[size] > 0) sizes.push_back(size);
  result::Table table{
      "sizes",
      "Baskets by size",
      fmt::format("One row for each number of distinct {}.", analysis::plural_of(counts.item)),
      {}};
  analysis::TableBuilder builder(table, sizes);
  builder.count("size", fmt::format("Distinct {} in the basket.", analysis::plural_of(counts.item)),
                [](std::size_t size) { return size; });
  add_sums(counts, builder,
           [&](std::size_t size) -> const BasketSum& { return counts.facts.sums_by_size[size]; });
  return table;
}

namespace {

void add_pull(const Counts& counts, analysis::TableBuilder<std::vector<std::uint32_t>>& builder) {
  const auto& items = counts.facts.items;
  const auto figure = [&](std::uint32_t code, double Pull::*member) {
    const double units = items[code].pull ? (*items[code].pull).*member : NAN;
    return std::isnan(units) ? result::kEmptyCell : std::llround(units);
  };
  builder
      .rounded_money("pull",
                     fmt::format("Per basket: {} of the other items, minus that of as many items in other "
                                 "baskets of its customers, adjusted for size and month.",
                                 counts.value()),
                     [&](std::uint32_t c) { return figure(c, &Pull::pull); })
      .always_shown = true;
  builder.rounded_money("pull_low", "Lower end of its 95% interval (customers as clusters).",
                        [&](std::uint32_t c) { return figure(c, &Pull::low); });
  builder.rounded_money("pull_high", "Upper end of its 95% interval.",
                        [&](std::uint32_t c) { return figure(c, &Pull::high); });
  builder
      .probability(
          "q_value",
          fmt::format("Significance of a pull above 0, adjusted for the number of {} with at least {} "
                      "baskets; empty for others.",
                      analysis::plural_of(counts.item), counts.options.at_least),
          [&](std::uint32_t c) { return counts.q_values[c]; })
      .always_shown = true;
}

void add_discount(const Counts& counts, analysis::TableBuilder<std::vector<std::uint32_t>>& builder) {
  if (!counts.options.discount) return;
  const std::int64_t per_cent = *counts.options.discount;
  const auto of = [&](std::uint32_t code) { return Discount(counts.facts.items[code], per_cent); };
  builder.rounded_money("discount_cost",
                        fmt::format("The cost of a {}% discount on it in the existing baskets.",
                                    Decimal::from_units(per_cent).to_text()),
                        [&](std::uint32_t code) { return of(code).cost; });
  builder
      .count(
          "more_baskets",
          "The number of additional baskets, at the lower price, that earn this back; empty if none would.",
          [&](std::uint32_t code) { return of(code).baskets.value_or(result::kEmptyCell); })
      .always_shown = true;
  builder.share("more_share", "These as a share of its baskets.", [&](std::uint32_t code) {
    const auto baskets = of(code).baskets;
    return baskets ? static_cast<double>(*baskets) / static_cast<double>(counts.facts.items[code].own.baskets)
                   : std::numeric_limits<double>::quiet_NaN();
  });
}

}  // namespace

result::Table pull_table(const Counts& counts) {
  const auto& items = counts.facts.items;
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code < items.size(); ++code)
    if (items[code].own.baskets > 0) codes.push_back(code);
  const auto pull_of = [&](std::uint32_t code) {
    return items[code].pull ? items[code].pull->pull : -std::numeric_limits<double>::infinity();
  };
  const bool has_pulls = counts.facts.has_pulls;
  const auto rank = [&](std::uint32_t code) {  // NaN, without a q value, comes last
    return std::pair(counts.pulls(code) ? 0 : std::isnan(counts.q_values[code]) ? 2 : 1, -pull_of(code));
  };
  std::stable_sort(codes.begin(), codes.end(), [&](std::uint32_t a, std::uint32_t b) {
    return has_pulls ? rank(a) < rank(b) : items[a].own.baskets > items[b].own.baskets;
  });
  const std::vector<std::uint32_t> first = candidates(counts);
  if (!first.empty()) {  // the one in the headline
    const auto headline = std::find(codes.begin(), codes.end(), first.front());
    std::rotate(codes.begin(), headline, headline + 1);
  }
  const std::string value = counts.value();
  result::Table table{
      "products",
      has_pulls ? "Pull of each product" : "Baskets of each product",
      has_pulls ? fmt::format("One row for each {}, that of the headline first, then by significant pull.",
                              counts.item)
                : fmt::format("One row for each {}, that of most baskets first.", counts.item),
      {}};
  const bool of_products = counts.key.source == daybook::role::kProductId;
  const auto itself = [](std::uint32_t code) { return code; };
  analysis::TableBuilder builder(table, codes);
  builder.key(of_products ? "product_id" : snake_case(counts.item), fmt::format("The {}.", counts.item),
              counts.key, itself);
  if (of_products) builder.names(counts.input.daybook, counts.key, itself);
  const auto item = [&](std::uint32_t code) -> const PulledBaskets& { return items[code]; };
  builder.count("baskets", "Baskets with it.", [&](std::uint32_t c) { return item(c).own.baskets; });
  builder.count("single_item", "Of these, baskets with nothing else.",
                [&](std::uint32_t c) { return item(c).single_item; });
  builder.share("single_item_share", "These as a share of its baskets.", [&](std::uint32_t c) {
    return static_cast<double>(item(c).single_item) / static_cast<double>(item(c).own.baskets);
  });
  builder.rounded_money("own_sales", "The amount paid for it.",
                        [&](std::uint32_t c) { return analysis::in_units(item(c).own.sales); });
  if (counts.facts.has_costs) {
    builder.rounded_money("own_margin", "Its own margin.",
                          [&](std::uint32_t c) { return analysis::in_units(item(c).own.margin); });
    builder
        .share("own_margin_rate", "own_margin / own sales of lines with a known cost.",
               [&](std::uint32_t c) { return item(c).own.margin_rate(); })
        .always_shown = true;
  }
  builder.rounded_money(
      "companions_" + value, fmt::format("{} of the other items in its baskets.", value),
      [&](std::uint32_t c) { return analysis::in_units(minus(item(c).whole, item(c).own_value)); });
  builder.rounded_money("basket_" + value, fmt::format("{} of its baskets, including itself.", value),
                        [&](std::uint32_t c) { return analysis::in_units(item(c).whole); });
  if (counts.facts.has_costs)
    builder.share("basket_margin_rate", "basket_margin / sales of lines with a known cost in these baskets.",
                  [&](std::uint32_t c) { return rate_of(item(c).whole, item(c).whole_known_sales); });
  if (has_pulls) add_pull(counts, builder);
  add_discount(counts, builder);
  return table;
}

}  // namespace pear::baskets
