#include "questions/baskets/basket_value.hpp"

#include <algorithm>
#include <array>
#include <limits>
#include <mutex>
#include <string_view>

#include <absl/container/flat_hash_map.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>
#include <tbb/parallel_sort.h>

#include "base/date.hpp"
#include "base/text_hash.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "daybook/purchases.hpp"

namespace pear::baskets {

double BasketSum::margin_rate() const {
  DecimalSum known_sales = cost;
  known_sales.add(margin);
  return known_sales == DecimalSum() ? std::numeric_limits<double>::quiet_NaN()
                                     : margin.approximate() / known_sales.approximate();
}

void BasketSum::add(const BasketSum& other) {
  baskets += other.baskets;
  sales.add(other.sales);
  cost.add(other.cost);
  margin.add(other.margin);
}

namespace {

BasketSum sum_of(const mining::BasketItem& item) {
  BasketSum sum;
  sum.sales.add(Decimal::from_units(item.amount));
  sum.cost.add(Decimal::from_units(item.cost));
  sum.margin.add(Decimal::from_units(item.margin));
  return sum;
}

class Facts {
 public:
  Facts(const daybook::Daybook& daybook, const expression::GroupKey& key, mining::BasketRule rule)
      : daybook_(daybook), walker_(daybook, key, rule), items_(key.distinct) {
    found_.has_costs = !daybook::known_margins(daybook).empty();
    if (!daybook.order_days().empty())
      first_month_ =
          month_of(Date{*std::min_element(daybook.order_days().begin(), daybook.order_days().end())});
  }

  BasketValues gather() {
    walk();
    std::vector<std::optional<Pull>> pulls;
    tbb::parallel_invoke([&] { list_compositions(); },
                         [&] { pulls = find_pulls(std::move(baskets_), items_); });
    for (std::size_t item = 0; item < items_; ++item) found_.items[item].pull = pulls[item];
    return std::move(found_);
  }

 private:
  struct Shard {  // compositions by their codes' bytes, those with the same hash
    std::mutex mutex;
    absl::flat_hash_map<std::string, BasketSum, TextHash, std::equal_to<>> compositions;
  };

  [[nodiscard]] std::int64_t value_of(const mining::BasketItem& item) const {
    return found_.has_costs ? item.margin : item.amount;
  }

  void walk() {
    constexpr std::uint32_t kPerBlock = 16'384;
    std::vector<ValuedBaskets> blocks((daybook_.customers() + kPerBlock - 1) / kPerBlock);
    // Sums of each thread: integers, so that their order does not matter.
    tbb::enumerable_thread_specific<std::vector<PulledBaskets>> all(items_);
    tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t block) {
      const auto begin = static_cast<std::uint32_t>(block) * kPerBlock;
      std::vector<mining::BasketItem> items;
      for (std::uint32_t customer = begin; customer < std::min(daybook_.customers(), begin + kPerBlock);
           ++customer) {
        walker_.walk(customer, items, [&](std::span<const mining::BasketItem> basket, Date day) {
          const std::size_t first = blocks[block].codes.size();
          add_basket(basket, all.local(), blocks[block]);
          add_make_up(std::span(blocks[block].codes).subspan(first), basket);
          blocks[block].customers.push_back(customer);
          blocks[block].months.push_back(
              static_cast<std::uint16_t>(month_of(day).index - first_month_.index));
        });
      }
    });
    baskets_ = joined(std::move(blocks));
    found_.items.resize(items_);
    for (const std::vector<PulledBaskets>& own : all)
      for (std::size_t i = 0; i < items_; ++i) add_item(own[i], found_.items[i]);
  }

  void add_basket(std::span<const mining::BasketItem> basket, std::vector<PulledBaskets>& sums,
                  ValuedBaskets& baskets) const {
    DecimalSum known_sales;
    std::int64_t value = 0;
    for (const mining::BasketItem& item : basket) {
      known_sales.add(Decimal::from_units(item.cost + item.margin));
      value += value_of(item);
      baskets.codes.push_back(item.code);
      baskets.values.push_back(value_of(item));
    }
    baskets.begins.push_back(static_cast<std::uint32_t>(baskets.codes.size()));
    for (const mining::BasketItem& item : basket) {
      PulledBaskets& pulled = sums[item.code];
      pulled.own.add(sum_of(item));
      ++pulled.own.baskets;
      pulled.single_item += basket.size() == 1 ? 1U : 0U;
      pulled.whole.add(Decimal::from_units(value));
      pulled.whole_known_sales.add(known_sales);
      pulled.own_value.add(Decimal::from_units(value_of(item)));
    }
  }

  static void add_item(const PulledBaskets& from, PulledBaskets& to) {
    to.own.add(from.own);
    to.single_item += from.single_item;
    to.whole.add(from.whole);
    to.whole_known_sales.add(from.whole_known_sales);
    to.own_value.add(from.own_value);
  }

  /// On any thread.
  void add_make_up(std::span<const std::uint32_t> codes, std::span<const mining::BasketItem> basket) {
    BasketSum whole;
    whole.baskets = 1;
    for (const mining::BasketItem& item : basket) whole.add(sum_of(item));
    const std::string_view bytes(reinterpret_cast<const char*>(codes.data()), codes.size_bytes());
    Shard& shard =
        shards_[TextHash{}(bytes) >> 58U];  // the upper bits, because the table uses the lower ones
    const std::lock_guard lock(shard.mutex);
    auto found = shard.compositions.find(bytes);
    if (found == shard.compositions.end())
      found = shard.compositions.emplace(std::string(bytes), BasketSum{}).first;
    found->second.add(whole);
  }

  void list_compositions() {
    std::vector<Composition> all;
    for (Shard& shard : shards_) {
      for (const auto& [bytes, sum] : shard.compositions) {
        Composition make_up{std::vector<std::uint32_t>(bytes.size() / sizeof(std::uint32_t)), sum};
        std::copy(bytes.begin(), bytes.end(), reinterpret_cast<char*>(make_up.codes.data()));
        all.push_back(std::move(make_up));
      }
      shard.compositions = {};
    }
    set_compositions(std::move(all), found_);
  }

  const daybook::Daybook& daybook_;
  mining::BasketWalker walker_;
  std::size_t items_;
  Month first_month_;
  std::array<Shard, 64> shards_;  ///< by the upper 6 bits of the hash
  ValuedBaskets baskets_;
  BasketValues found_;
};

}  // namespace

void set_compositions(std::vector<Composition> compositions, BasketValues& values) {
  for (const Composition& make_up : compositions) {
    const std::size_t size = make_up.codes.size();
    if (values.by_size.size() <= size) {
      values.by_size.resize(size + 1);
      values.sums_by_size.resize(size + 1);
    }
    values.by_size[size] += make_up.sum.baskets;
    values.sums_by_size[size].add(make_up.sum);
    values.baskets += make_up.sum.baskets;
  }
  tbb::parallel_sort(
      compositions.begin(), compositions.end(), [](const Composition& a, const Composition& b) {
        if (a.sum.baskets != b.sum.baskets) return a.sum.baskets > b.sum.baskets;
        return a.codes.size() != b.codes.size() ? a.codes.size() < b.codes.size() : a.codes < b.codes;
      });
  values.compositions = std::move(compositions);
}

BasketValues basket_values(const daybook::Daybook& daybook, const expression::GroupKey& key,
                           mining::BasketRule rule) {
  BasketValues facts = Facts(daybook, key, rule).gather();
  const auto margins = daybook::known_margins(daybook);
  const daybook::Purchases purchases(daybook);
  for (std::uint32_t line = 0; line < margins.size(); ++line)
    facts.lines_without_cost +=
        purchases.is_of_product(line) && margins[line] == daybook::kEmptyUnits ? 1U : 0U;
  return facts;
}

}  // namespace pear::baskets
