#include "mining/baskets.hpp"

#include <algorithm>
#include <numeric>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "analysis/options/length_of_time.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::mining {

OrError<BasketRule> parse_basket_rule(std::string_view text) {
  using Within = BasketRule::Within;
  if (text == "order") return BasketRule{Within::order, 0};
  if (text == "day") return BasketRule{Within::day, 0};
  if (text == "customer") return BasketRule{Within::customer, 0};
  const auto days = analysis::parse_days("basket", text, 0, 100'000);
  if (!days)
    return usage_error(
        fmt::format("--basket takes order, day, customer, or a length of time such as 14, \"14 days\" or "
                    "\"2 weeks\", not {}.",
                    in_quotes(text)));
  return BasketRule{Within::days, static_cast<std::int32_t>(*days)};
}

std::string describe_baskets(const BasketRule& rule) {
  switch (rule.within) {
    case BasketRule::Within::order:
      return "orders";
    case BasketRule::Within::day:
      return "days of a customer";
    case BasketRule::Within::customer:
      return "customers";
    case BasketRule::Within::days:
      break;
  }
  return fmt::format("runs of orders with gaps of at most {}",
                     counted(static_cast<std::uint64_t>(rule.days), "day"));
}

OrError<std::pair<expression::GroupKey, std::string>> basket_key(const std::optional<expression::Tree>& items,
                                                                 const expression::LineView& lines) {
  if (!items || items->text == daybook::role::kProductId)
    return std::pair(analysis::id_key(lines.daybook(), daybook::Level::product), std::string("product"));
  PEAR_ASSIGN(std::vector<expression::GroupKey> keys, analysis::keys_of("count", {*items}, lines));
  if (!expression::within(keys.front().grain, expression::grain::kProduct))
    return usage_error(fmt::format("--count: {} is not a column of products.", in_quotes(items->text)));
  return std::pair(std::move(keys.front()), analysis::noun_of(items->name));
}

analysis::PreparedQuestion prepared_for_baskets(const std::optional<expression::Tree>& items) {
  analysis::PreparedQuestion prepared;
  for (const std::string_view name :
       {daybook::role::kCustomerId, daybook::role::kProductId, daybook::role::kOrderDate,
        daybook::role::kIsReturn, daybook::role::kAmount})
    prepared.columns.emplace_back(name);
  prepared.where_there = {"product_name", "margin"};
  if (items) prepared.trees.push_back({"count", *items, {}});
  return prepared;
}

BasketWalker::BasketWalker(const daybook::Daybook& daybook, const expression::GroupKey& key, BasketRule rule)
    : daybook_(daybook),
      key_(key),
      rule_(rule),
      purchases_(daybook),
      days_(daybook.order_days()),
      products_(daybook.parts().line_products),
      amounts_(daybook.amounts()) {
  const daybook::Column* margin = daybook.find("margin");
  if (margin != nullptr) margins_ = std::get<daybook::DecimalValues>(margin->values).units;
}

bool BasketWalker::has_purchase(std::uint32_t order) const {
  const daybook::Run lines = daybook_.lines_of(order);
  for (std::uint32_t line = lines.begin; line < lines.end; ++line)
    if (purchases_.is_of_product(line)) return true;
  return false;
}

bool BasketWalker::belongs(std::uint32_t order, std::uint32_t last) const {
  switch (rule_.within) {
    case BasketRule::Within::order:
      return false;
    case BasketRule::Within::day:
      return days_[order] == days_[last];
    case BasketRule::Within::customer:
      return true;
    case BasketRule::Within::days:
      break;
  }
  return days_[order] - days_[last] <= rule_.days;
}

void BasketWalker::gather(daybook::Run orders, std::vector<BasketItem>& items) const {
  items.clear();
  bool is_sorted = true;
  for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
    const daybook::Run lines = daybook_.lines_of(order);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      if (!purchases_.is_of_product(line)) continue;
      const std::uint32_t member = key_.level == daybook::Level::product ? products_[line] : line;
      const std::uint32_t code = key_.codes[member];
      if (code == key_.distinct) continue;
      const bool is_known = !margins_.empty() && margins_[line] != daybook::kEmptyUnits;
      const std::int64_t margin = is_known ? margins_[line] : 0,
                         cost = is_known ? amounts_[line] - margin : 0;
      if (!items.empty() && items.back().code == code) {
        items.back().add({code, amounts_[line], cost, margin});
        continue;
      }
      is_sorted = is_sorted && (items.empty() || items.back().code < code);
      items.push_back({code, amounts_[line], cost, margin});
    }
  }
  if (is_sorted) return;
  std::stable_sort(items.begin(), items.end(),
                   [](const BasketItem& a, const BasketItem& b) { return a.code < b.code; });
  std::size_t last = 0;
  for (std::size_t i = 1; i < items.size(); ++i) {
    if (items[i].code == items[last].code) {
      items[last].add(items[i]);
    } else {
      items[++last] = items[i];
    }
  }
  items.resize(last + 1);
}

Baskets gather_baskets(const daybook::Daybook& daybook, const expression::GroupKey& key, BasketRule rule,
                       std::optional<Date> until) {
  struct Block {
    std::vector<std::uint32_t> items, ends, customers;
    std::vector<std::int32_t> days;
  };
  constexpr std::uint32_t kPerBlock = 16'384;
  const BasketWalker walker(daybook, key, rule);
  std::vector<Block> blocks((daybook.customers() + kPerBlock - 1) / kPerBlock);
  tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t b) {
    Block& block = blocks[b];
    std::vector<BasketItem> items;
    const auto begin = static_cast<std::uint32_t>(b) * kPerBlock;
    for (std::uint32_t customer = begin; customer < std::min(daybook.customers(), begin + kPerBlock);
         ++customer)
      walker.walk(customer, items, [&](std::span<const BasketItem> basket, Date day) {
        if (until && day > *until) return;
        for (const BasketItem& item : basket) block.items.push_back(item.code);
        block.ends.push_back(static_cast<std::uint32_t>(block.items.size()));
        block.customers.push_back(customer);
        block.days.push_back(day.days);
      });
  });
  Baskets baskets;
  std::size_t items = 0, ends = 1;
  for (const Block& block : blocks) items += block.items.size(), ends += block.ends.size();
  baskets.items.reserve(items);
  baskets.begins.reserve(ends);
  baskets.customers.reserve(ends);
  baskets.days.reserve(ends);
  for (Block& block : blocks) {
    const auto before = static_cast<std::uint32_t>(baskets.items.size());
    for (const std::uint32_t end : block.ends) baskets.begins.push_back(before + end);
    baskets.items.insert(baskets.items.end(), block.items.begin(), block.items.end());
    baskets.customers.insert(baskets.customers.end(), block.customers.begin(), block.customers.end());
    baskets.days.insert(baskets.days.end(), block.days.begin(), block.days.end());
    block = {};
  }
  baskets.counts.resize(key.distinct);
  baskets.single_item.resize(key.distinct);
  for (const std::uint32_t code : baskets.items) ++baskets.counts[code];
  for (std::size_t basket = 0; basket < baskets.size(); ++basket)
    if (baskets.of(basket).size() == 1) ++baskets.single_item[baskets.of(basket).front()];
  return baskets;
}

}  // namespace pear::mining
