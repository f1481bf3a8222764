// Baskets: lines that were bought together.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "analysis/options/option.hpp"
#include "analysis/question.hpp"
#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/purchases.hpp"
#include "expression/aggregate/grouping.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::mining {

/// Which lines form one basket.
struct BasketRule {
  enum class Within : std::uint8_t { order, day, customer, days };
  Within within = Within::order;
  std::int32_t days =
      0;  ///< of `days`: orders belong together if the gaps between them are at most this many days
};

/// "order", "day", "customer", "14 days". Error: usage.
[[nodiscard]] OrError<BasketRule> parse_basket_rule(std::string_view text);
/// "orders", "days of a customer", "customers", "runs of orders with gaps of at most 14 days"
[[nodiscard]] std::string describe_baskets(const BasketRule& rule);

/// The items of baskets, and the noun for them: products, or a column of products. Error: usage, for another
/// column.
[[nodiscard]] OrError<std::pair<expression::GroupKey, std::string>> basket_key(
    const std::optional<expression::Tree>& items, const expression::LineView& lines);

/// The option --basket of a question about baskets.
template <class Options>
analysis::OptionDeclaration<Options> basket_option() {
  return {{"basket", "order|day|customer|DAYS", "order",
           "what makes a basket: one order, one day, all orders, or orders with gaps up to this"},
          [](Options& options, std::string_view text) -> OrError<void> {
            PEAR_ASSIGN(options.within, parse_basket_rule(text));
            return {};
          }};
}

/// The columns that a question about baskets reads.
[[nodiscard]] analysis::PreparedQuestion prepared_for_baskets(const std::optional<expression::Tree>& items);

/// One item of a basket: a product, or a value of another column of lines. The sums are over its purchase
/// lines in the basket.
struct BasketItem {
  std::uint32_t code = 0;
  std::int64_t amount = 0;
  std::int64_t cost = 0, margin = 0;  ///< of lines with a known cost

  void add(const BasketItem& other) {
    amount += other.amount;
    cost += other.cost;
    margin += other.margin;
  }
};

/// Forms the baskets of customers one after another: purchases only, every item once, in order of code. Items
/// without a value of the key are left out; without any item there is no basket.
class BasketWalker {
 public:
  BasketWalker(const daybook::Daybook& daybook, const expression::GroupKey& key, BasketRule rule);

  /// visit(items, day) for each basket of a customer, in order of time; day is that of its first order. An
  /// order that contains only returns is no order: it neither begins a basket nor joins two.
  template <class Visit>
  void walk(std::uint32_t customer, std::vector<BasketItem>& items, const Visit& visit) const {
    const daybook::Run orders = daybook_.orders_of(customer);
    for (std::uint32_t begin = orders.begin; begin < orders.end;) {
      if (!has_purchase(begin)) {
        ++begin;
        continue;
      }
      std::uint32_t end = begin + 1;
      for (std::uint32_t last = begin; end < orders.end && belongs(end, last); ++end)
        if (has_purchase(end)) last = end;
      gather({begin, end}, items);
      if (!items.empty()) visit(std::span<const BasketItem>(items), Date{days_[begin]});
      begin = end;
    }
  }

 private:
  /// Whether an order belongs to the basket whose last order is given.
  [[nodiscard]] bool belongs(std::uint32_t order, std::uint32_t last) const;
  [[nodiscard]] bool has_purchase(std::uint32_t order) const;
  void gather(daybook::Run orders, std::vector<BasketItem>& items) const;

  const daybook::Daybook& daybook_;
  const expression::GroupKey& key_;
  BasketRule rule_;
  daybook::Purchases purchases_;
  std::span<const std::int32_t> days_;
  std::span<const std::uint32_t> products_;
  std::span<const std::int64_t> amounts_, margins_;
};

/// All baskets as sets of codes, in one array.
struct Baskets {
  std::vector<std::uint32_t> items;        ///< in order of code within a basket
  std::vector<std::uint32_t> begins{0};    ///< by basket its first item, and the end
  std::vector<std::uint32_t> customers;    ///< by basket, never decreasing
  std::vector<std::int32_t> days;          ///< by basket, that of its first order
  std::vector<std::uint32_t> counts;       ///< by code, how many baskets contain it
  std::vector<std::uint32_t> single_item;  ///< by code, how many contain nothing else

  [[nodiscard]] std::size_t size() const { return begins.size() - 1; }
  [[nodiscard]] std::span<const std::uint32_t> of(std::size_t basket) const {
    return std::span(items).subspan(begins[basket], begins[basket + 1] - begins[basket]);
  }
};

/// Those up to a day, if one is given. O(lines) on all threads; the same for any number of them.
[[nodiscard]] Baskets gather_baskets(const daybook::Daybook& daybook, const expression::GroupKey& key,
                                     BasketRule rule, std::optional<Date> until = {});

}  // namespace pear::mining
