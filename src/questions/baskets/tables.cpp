#include "questions/baskets/tables.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::baskets {
namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();

std::int64_t units_of(const DecimalSum& sum) {
  return sum.total() ? sum.total()->units() : result::kEmptyCell;
}

std::int64_t mean_units(const DecimalSum& sum, std::uint64_t count) {
  const auto mean = count == 0 ? std::nullopt : sum.mean(count);
  return mean ? mean->units() : result::kEmptyCell;
}

std::int64_t units_of(const std::optional<Decimal>& value) {
  return value ? value->units() : result::kEmptyCell;
}

DecimalSum minus(const DecimalSum& a, const DecimalSum& b) {
  DecimalSum difference = a;
  if (const auto total = b.total()) difference.add(Decimal::from_units(-total->units()));
  return difference;
}

/// Columns in the making, a row for each of several things.
template <class Rows>
class Maker {
 public:
  Maker(const Rows& rows, std::vector<result::TableColumn>& columns) : rows_(rows), columns_(columns) {}

  template <class Of>
  result::TableColumn& add(std::string name, result::Unit unit, std::string description, Of of) {
    std::vector<std::int64_t> values;
    values.reserve(rows_.size());
    for (const auto& row : rows_) values.push_back(static_cast<std::int64_t>(of(row)));
    columns_.push_back(
        result::integer_column(std::move(name), unit, std::move(description), std::move(values)));
    if (unit == result::Unit::money) columns_.back().places = 2;
    return columns_.back();
  }
  template <class Of>
  result::TableColumn& add_share(std::string name, std::string description, Of of) {
    std::vector<double> values;
    values.reserve(rows_.size());
    for (const auto& row : rows_) values.push_back(of(row));
    columns_.push_back(result::share_column(std::move(name), std::move(description), std::move(values)));
    return columns_.back();
  }

 private:
  const Rows& rows_;
  std::vector<result::TableColumn>& columns_;
};

/// What baskets bring: the same columns wherever there are baskets.
template <class Rows, class SumOf>
void add_sums(const Finding& finding, Maker<Rows>& make, const SumOf& sum_of) {
  const auto all = static_cast<double>(finding.facts.baskets);
  make.add("baskets", result::Unit::count, "How many baskets.",
           [&](const auto& row) { return sum_of(row).baskets; })
      .always_shown = true;
  make.add_share("share", "These as a share of all baskets.",
                 [&](const auto& row) { return static_cast<double>(sum_of(row).baskets) / all; });
  make.add("sales", result::Unit::money, "What was paid.",
           [&](const auto& row) { return units_of(sum_of(row).sales); });
  if (finding.facts.has_costs) {
    make.add("cost", result::Unit::money, "What it cost, where costs are known.",
             [&](const auto& row) { return units_of(sum_of(row).cost); });
    make.add("margin", result::Unit::money, "What was earned, where costs are known.",
             [&](const auto& row) { return units_of(sum_of(row).margin); });
    make.add_share("margin_rate", "margin by sales.",
                   [&](const auto& row) { return rate_of(sum_of(row).margin, sum_of(row).sales); });
  }
  make.add("average_value", result::Unit::money, "sales by baskets.",
           [&](const auto& row) { return mean_units(sum_of(row).sales, sum_of(row).baskets); })
      .always_shown = true;
}

}  // namespace

double rate_of(const DecimalSum& a, const DecimalSum& b) {
  return b == DecimalSum() ? kNone : a.approximate() / b.approximate();
}

std::string Finding::title(std::uint32_t code) const {
  return analysis::label_with_name(asked.daybook, key, code);
}

double Finding::margin_rate() const {
  BasketSum all;
  for (const BasketSum& each : facts.sums_by_size) all.add(each);
  return rate_of(facts.has_costs ? all.margin : all.sales, all.sales);
}

std::int64_t Finding::companions_per_basket(std::uint32_t code) const {
  const PulledBaskets& each = facts.items[code];
  return mean_units(minus(each.whole, each.own_value), each.own.baskets);
}

bool Finding::is_candidate(std::uint32_t code) const {
  const PulledBaskets& each = facts.items[code];
  if (each.own.baskets < static_cast<std::uint64_t>(options.at_least) || !each.pull_low ||
      each.pull_low->units() <= 0)
    return false;
  return !facts.has_costs || rate_of(each.own.margin, each.own.sales) < margin_rate();
}

Discount::Discount(const PulledBaskets& item, std::int64_t per_cent) {
  const double sales = item.own.sales.approximate(), whole = item.whole.approximate();
  const double lost = sales * static_cast<double>(per_cent) / Decimal::kScale / 100;
  cost = std::llround(lost * Decimal::kScale);
  const auto count = static_cast<double>(item.own.baskets);
  if (whole > lost) baskets = static_cast<std::int64_t>(std::ceil(count * lost / (whole - lost) - 1e-9));
}

result::Table compositions_table(const Finding& finding) {
  const auto& rows = finding.facts.make_ups;
  const std::string plural = analysis::plural_of(finding.item);
  result::Table table{"",
                      "What baskets are made of",
                      fmt::format("One row for each set of different {} that is a basket.", plural),
                      {}};
  TextArray ids;
  for (const Composition& row : rows) {
    std::string text;
    for (const std::uint32_t code : row.codes)
      text += (text.empty() ? "" : " + ") + expression::label_text(finding.key, code);
    ids.push_back(text);
  }
  table.columns.push_back(
      result::text_column(snake_case(plural), "Joined by \" + \", in natural order.", std::move(ids)));
  table.columns.back().always_shown = true;
  Maker make(rows, table.columns);
  make.add("size", result::Unit::count, fmt::format("How many different {}.", plural),
           [](const Composition& row) { return row.codes.size(); });
  add_sums(finding, make, [](const Composition& row) -> const BasketSum& { return row.sum; });
  return table;
}

result::Table basket_sizes_table(const Finding& finding) {
  std::vector<std::size_t> sizes;
  for (std::size_t size = 1; size < finding.facts.by_size.size(); ++size)
    if (finding.facts.by_size[size] > 0) sizes.push_back(size);
  result::Table table{
      "sizes",
      "By size",
      fmt::format("One row for each number of different {}.", analysis::plural_of(finding.item)),
      {}};
  Maker make(sizes, table.columns);
  make.add("size", result::Unit::count,
           fmt::format("Different {} in the basket.", analysis::plural_of(finding.item)),
           [](std::size_t size) { return size; });
  add_sums(finding, make,
           [&](std::size_t size) -> const BasketSum& { return finding.facts.sums_by_size[size]; });
  return table;
}

namespace {

void add_discount(const Finding& finding, Maker<std::vector<std::uint32_t>>& make) {
  if (!finding.options.discount) return;
  const std::int64_t per_cent = *finding.options.discount;
  const auto of = [&](std::uint32_t code) { return Discount(finding.facts.items[code], per_cent); };
  make.add("discount_cost", result::Unit::money,
           fmt::format("What {}% off its price takes away, of baskets as they were.",
                       Decimal::from_units(per_cent).to_text()),
           [&](std::uint32_t code) { return of(code).cost; });
  make.add("more_baskets", result::Unit::count,
           "How many more of its baskets, at the lower price, earn that again; empty where none would.",
           [&](std::uint32_t code) { return of(code).baskets.value_or(result::kEmptyCell); })
      .always_shown = true;
  make.add_share("more_share", "These as a share of its baskets.", [&](std::uint32_t code) {
    const auto baskets = of(code).baskets;
    return baskets
               ? static_cast<double>(*baskets) / static_cast<double>(finding.facts.items[code].own.baskets)
               : kNone;
  });
}

}  // namespace

result::Table pull_table(const Finding& finding) {
  const auto& items = finding.facts.items;
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code < items.size(); ++code)
    if (items[code].own.baskets > 0) codes.push_back(code);
  std::stable_sort(codes.begin(), codes.end(), [&](std::uint32_t a, std::uint32_t b) {
    const std::int64_t x = units_of(items[a].pull_low), y = units_of(items[b].pull_low);
    return x > y;
  });
  const std::string value = finding.value();
  result::Table table{
      "products", "Which pull", fmt::format("One row for each {}, the surest pull first.", finding.item), {}};
  const bool of_products = finding.key.source == daybook::role::kProductId;
  table.columns.push_back(analysis::key_column(of_products ? "product_id" : snake_case(finding.item),
                                               fmt::format("The {}.", finding.item), finding.key, codes));
  if (of_products) analysis::add_names(finding.asked.daybook, finding.key, codes, table.columns);
  Maker make(codes, table.columns);
  const auto item = [&](std::uint32_t code) -> const PulledBaskets& { return items[code]; };
  make.add("baskets", result::Unit::count, "Baskets with it.",
           [&](std::uint32_t c) { return item(c).own.baskets; });
  make.add("alone", result::Unit::count, "Of these, those with nothing else.",
           [&](std::uint32_t c) { return item(c).alone; });
  make.add_share("alone_share", "These as a share of its baskets.", [&](std::uint32_t c) {
    return static_cast<double>(item(c).alone) / static_cast<double>(item(c).own.baskets);
  });
  make.add("own_sales", result::Unit::money, "What was paid for it.",
           [&](std::uint32_t c) { return units_of(item(c).own.sales); });
  if (finding.facts.has_costs) {
    make.add("own_margin", result::Unit::money, "What it earned itself.",
             [&](std::uint32_t c) { return units_of(item(c).own.margin); });
    make.add_share("own_margin_rate", "own_margin by own_sales.",
                   [&](std::uint32_t c) { return rate_of(item(c).own.margin, item(c).own.sales); })
        .always_shown = true;
  }
  make.add("companions_" + value, result::Unit::money, fmt::format("{} of the rest of its baskets.", value),
           [&](std::uint32_t c) { return units_of(minus(item(c).whole, item(c).own_value)); });
  make.add("basket_" + value, result::Unit::money, fmt::format("{} of its baskets, itself included.", value),
           [&](std::uint32_t c) { return units_of(item(c).whole); });
  if (finding.facts.has_costs)
    make.add_share("basket_margin_rate", "basket_margin by the sales of these baskets.",
                   [&](std::uint32_t c) { return rate_of(item(c).whole, item(c).whole_sales); });
  make.add(
          "pull", result::Unit::money,
          fmt::format("By basket: {} of the rest, less what baskets without it of that size and month bring.",
                      value),
          [&](std::uint32_t c) { return units_of(item(c).pull); })
      .always_shown = true;
  make.add("pull_low", result::Unit::money,
           "Lower end of its 95% interval (bootstrap over groups of customers).",
           [&](std::uint32_t c) { return units_of(item(c).pull_low); });
  make.add("pull_high", result::Unit::money, "Upper end.",
           [&](std::uint32_t c) { return units_of(item(c).pull_high); });
  add_discount(finding, make);
  return table;
}

}  // namespace pear::baskets
