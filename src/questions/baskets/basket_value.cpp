#include "questions/baskets/basket_value.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <mutex>
#include <string_view>

#include <absl/container/flat_hash_map.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_sort.h>

#include "base/date.hpp"
#include "base/text_hash.hpp"
#include "daybook/walk_lines.hpp"
#include "statistics/bootstrap.hpp"
#include "statistics/quantile.hpp"

namespace pear::baskets {

void BasketSum::add(const BasketSum& other) {
  baskets += other.baskets;
  sales.add(other.sales);
  cost.add(other.cost);
  margin.add(other.margin);
}

namespace {

constexpr std::array<std::size_t, 6> kSizes = {1, 2, 3, 4, 5, 7};  ///< where size classes begin

std::size_t size_class(std::size_t size) {
  return static_cast<std::size_t>(std::upper_bound(kSizes.begin(), kSizes.end(), size) - kSizes.begin() - 1);
}

/// Baskets of a size class and a month.
struct Cell {
  std::uint64_t baskets = 0;
  std::int64_t value = 0;  // units; sums of baskets are far within the range

  void add(const Cell& other) {
    baskets += other.baskets;
    value += other.value;
  }
};

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
    found_.has_costs = daybook.find("margin") != nullptr;
    const auto [first, last] = std::minmax_element(daybook.order_days().begin(), daybook.order_days().end());
    first_month_ = month_of(Date{*first});
    months_ = static_cast<std::size_t>(month_of(Date{*last}).index - first_month_.index) + 1;
    all_cells_.resize(kSizes.size() * months_);
    cells_.resize(items_ * all_cells_.size());
  }

  BasketValues gather() {
    first_pass();
    find_means();
    second_pass();
    find_pulls();
    return std::move(found_);
  }

 private:
  struct Own {  // one thread's sums: integers, so that their order does not matter
    std::vector<PulledBaskets> items;
    std::vector<Cell> cells, all_cells;
  };
  struct Shard {  // compositions by their codes' bytes, those with the same hash
    std::mutex mutex;
    absl::flat_hash_map<std::string, BasketSum, TextHash, std::equal_to<>> compositions;
  };

  [[nodiscard]] std::int64_t value_of(const mining::BasketItem& item) const {
    return found_.has_costs ? item.margin : item.amount;
  }
  [[nodiscard]] std::size_t cell_of(std::size_t size, Date day) const {
    return size_class(size) * months_ + static_cast<std::size_t>(month_of(day).index - first_month_.index);
  }

  void first_pass() {
    tbb::enumerable_thread_specific<Own> all([&] {
      return Own{std::vector<PulledBaskets>(items_), std::vector<Cell>(cells_.size()),
                 std::vector<Cell>(all_cells_.size())};
    });
    daybook::for_each_customer_run(daybook_, [&](daybook::CustomerRun run) {
      Own& own = all.local();
      std::vector<mining::BasketItem> items;
      std::vector<std::uint32_t> codes;
      const auto visit = [&](std::span<const mining::BasketItem> basket, Date day) {
        add_basket(basket, day, codes, own);
      };
      for (std::uint32_t customer = run.begin; customer < run.end; ++customer)
        walker_.walk(customer, items, visit);
    });
    found_.items.resize(items_);
    for (Own& own : all) {
      for (std::size_t i = 0; i < items_; ++i) add_item(own.items[i], found_.items[i]);
      for (std::size_t i = 0; i < cells_.size(); ++i) cells_[i].add(own.cells[i]);
      for (std::size_t i = 0; i < all_cells_.size(); ++i) all_cells_[i].add(own.all_cells[i]);
      own = {};
    }
    list_compositions();
  }

  void add_basket(std::span<const mining::BasketItem> basket, Date day, std::vector<std::uint32_t>& codes,
                  Own& own) {
    BasketSum whole;
    whole.baskets = 1;
    std::int64_t value = 0;
    codes.clear();
    for (const mining::BasketItem& item : basket) {
      whole.add(sum_of(item));
      value += value_of(item);
      codes.push_back(item.code);
    }
    add_make_up(codes, whole);
    const std::size_t cell = cell_of(basket.size(), day);
    own.all_cells[cell].add({1, value});
    for (const mining::BasketItem& item : basket) {
      PulledBaskets& pulled = own.items[item.code];
      pulled.own.add(sum_of(item));
      ++pulled.own.baskets;
      pulled.single_item += basket.size() == 1 ? 1U : 0U;
      pulled.whole.add(Decimal::from_units(value));
      pulled.whole_sales.add(whole.sales);
      pulled.own_value.add(Decimal::from_units(value_of(item)));
      own.cells[item.code * all_cells_.size() + cell].add({1, value});
    }
  }

  static void add_item(const PulledBaskets& from, PulledBaskets& to) {
    to.own.add(from.own);
    to.single_item += from.single_item;
    to.whole.add(from.whole);
    to.whole_sales.add(from.whole_sales);
    to.own_value.add(from.own_value);
  }

  /// On any thread.
  void add_make_up(const std::vector<std::uint32_t>& codes, const BasketSum& whole) {
    const std::string_view bytes(reinterpret_cast<const char*>(codes.data()),
                                 codes.size() * sizeof(codes[0]));
    Shard& shard =
        shards_[TextHash{}(bytes) >> 58U];  // the upper bits, because the table uses the lower ones
    const std::lock_guard lock(shard.mutex);
    auto found = shard.compositions.find(bytes);
    if (found == shard.compositions.end())
      found = shard.compositions.emplace(std::string(bytes), BasketSum{}).first;
    found->second.add(whole);
  }

  void list_compositions() {
    for (Shard& shard : shards_) {
      for (const auto& [bytes, sum] : shard.compositions) {
        Composition make_up{std::vector<std::uint32_t>(bytes.size() / sizeof(std::uint32_t)), sum};
        std::copy(bytes.begin(), bytes.end(), reinterpret_cast<char*>(make_up.codes.data()));
        add_size(make_up);
        found_.compositions.push_back(std::move(make_up));
      }
      shard.compositions = {};
    }
    tbb::parallel_sort(found_.compositions.begin(), found_.compositions.end(),
                       [](const Composition& a, const Composition& b) {
                         if (a.sum.baskets != b.sum.baskets) return a.sum.baskets > b.sum.baskets;
                         return a.codes.size() != b.codes.size() ? a.codes.size() < b.codes.size()
                                                                 : a.codes < b.codes;
                       });
  }

  void add_size(const Composition& make_up) {
    const std::size_t size = make_up.codes.size();
    if (found_.by_size.size() <= size) {
      found_.by_size.resize(size + 1);
      found_.sums_by_size.resize(size + 1);
    }
    found_.by_size[size] += make_up.sum.baskets;
    found_.sums_by_size[size].add(make_up.sum);
    found_.baskets += make_up.sum.baskets;
  }

  /// By item and cell, the mean value of similar baskets without the item, rounded to a unit; kEmptyUnits if
  /// there are none.
  void find_means() {
    const std::size_t cells = all_cells_.size();
    means_.assign(cells_.size(), daybook::kEmptyUnits);
    for (std::size_t item = 0; item < items_; ++item) {
      for (std::size_t size = 0; size < kSizes.size(); ++size) {
        Cell any_month;
        for (std::size_t month = 0; month < months_; ++month) {
          const std::size_t cell = size * months_ + month;
          any_month.add(without(item, cell));
        }
        for (std::size_t month = 0; month < months_; ++month) {
          const std::size_t cell = size * months_ + month;
          const Cell like = without(item, cell).baskets > 0 ? without(item, cell) : any_month;
          if (like.baskets > 0)
            means_[item * cells + cell] = static_cast<std::int64_t>(
                divided_evenly(like.value, static_cast<std::int64_t>(like.baskets)));
        }
      }
    }
  }

  [[nodiscard]] Cell without(std::size_t item, std::size_t cell) const {
    const Cell& with = cells_[item * all_cells_.size() + cell];
    return {all_cells_[cell].baskets - with.baskets, all_cells_[cell].value - with.value};
  }

  /// By item and group of customers: the rest of each basket minus the mean of similar baskets.
  void second_pass() {
    groups_ = std::min<std::size_t>(statistics::Resamples::kMostGroups, daybook_.customers());
    differences_.resize(items_ * groups_);
    tbb::enumerable_thread_specific<std::vector<Cell>> all(
        [&] { return std::vector<Cell>(differences_.size()); });
    daybook::for_each_customer_run(daybook_, [&](daybook::CustomerRun run) {
      std::vector<Cell>& own = all.local();
      std::vector<mining::BasketItem> items;
      for (std::uint32_t customer = run.begin; customer < run.end; ++customer) {
        walker_.walk(customer, items, [&](std::span<const mining::BasketItem> basket, Date day) {
          std::int64_t value = 0;
          for (const mining::BasketItem& item : basket) value += value_of(item);
          for (const mining::BasketItem& item : basket) {
            Cell& sum = own[item.code * groups_ + customer % groups_];
            if (basket.size() == 1) {  // without it there is no basket
              sum.add({1, 0});
              continue;
            }
            const std::int64_t like = means_[item.code * all_cells_.size() + cell_of(basket.size() - 1, day)];
            if (like != daybook::kEmptyUnits) sum.add({1, value - value_of(item) - like});
          }
        });
      }
    });
    for (const std::vector<Cell>& own : all)
      for (std::size_t i = 0; i < differences_.size(); ++i) differences_[i].add(own[i]);
  }

  void find_pulls() {
    const statistics::Resamples resamples(groups_);
    tbb::parallel_for(std::size_t{0}, items_, [&](std::size_t item) {
      const Cell* groups = &differences_[item * groups_];
      Cell all;
      for (std::size_t group = 0; group < groups_; ++group) all.add(groups[group]);
      if (all.baskets == 0) return;
      PulledBaskets& pulled = found_.items[item];
      pulled.pull = mean_of(all);
      std::vector<std::int64_t> means;
      for (std::size_t resample = 0; resample < statistics::Resamples::kTimes; ++resample) {
        const auto times = resamples.times(resample);
        Cell drawn;
        for (std::size_t group = 0; group < groups_; ++group)
          drawn.add({groups[group].baskets * times[group], groups[group].value * times[group]});
        if (drawn.baskets > 0) means.push_back(mean_of(drawn).units());
      }
      pulled.pull_low = Decimal::from_units(*statistics::quantile_of(means, statistics::Fraction{25, 1000}));
      pulled.pull_high =
          Decimal::from_units(*statistics::quantile_of(means, statistics::Fraction{975, 1000}));
    });
  }

  static Decimal mean_of(const Cell& cell) {
    return Decimal::from_units(
        static_cast<std::int64_t>(divided_evenly(cell.value, static_cast<std::int64_t>(cell.baskets))));
  }

  const daybook::Daybook& daybook_;
  mining::BasketWalker walker_;
  std::size_t items_, months_ = 1, groups_ = 1;
  Month first_month_;
  std::array<Shard, 64> shards_;         ///< by the upper 6 bits of the hash
  std::vector<Cell> cells_, all_cells_;  ///< by item, then by size and month; by size and month
  std::vector<std::int64_t> means_;      ///< as cells_
  std::vector<Cell> differences_;        ///< by item, then by group of customers
  BasketValues found_;
};

}  // namespace

BasketValues basket_values(const daybook::Daybook& daybook, const expression::GroupKey& key,
                           mining::BasketRule rule) {
  BasketValues facts = Facts(daybook, key, rule).gather();
  if (const daybook::Column* margin = daybook.find("margin")) {
    const auto& units = std::get<daybook::DecimalValues>(margin->values).units;
    for (std::size_t line = 0; line < units.size(); ++line)
      facts.lines_without_cost +=
          daybook.return_flags()[line] == 0 && units[line] == daybook::kEmptyUnits ? 1U : 0U;
  }
  return facts;
}

}  // namespace pear::baskets
