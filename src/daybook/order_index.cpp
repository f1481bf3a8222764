#include "daybook/order_index.hpp"

#include <algorithm>
#include <limits>
#include <tuple>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/natural_order.hpp"

namespace pear {
namespace {

constexpr std::uint32_t kNone = std::numeric_limits<std::uint32_t>::max();

struct OrderEntry {
  std::uint32_t customer = 0;  // rank
  std::uint32_t code = 0;      // position in LineTable::order_ids
  Moment moment;
  bool two_dates = false;
};

template <class T>
void release(std::vector<T>& array) {
  std::vector<T>().swap(array);
}

/// Counts to offsets: offsets[i + 1] holds the count of i on entry, the end of i on return.
void accumulate(std::vector<std::uint32_t>& offsets) {
  for (std::size_t i = 1; i < offsets.size(); ++i) offsets[i] += offsets[i - 1];
}

/// Finds or makes the entry of each line's order. An order id nearly always belongs to one customer, so its
/// first owner is found by position; only further owners need a hash table.
class OrderEntries {
 public:
  explicit OrderEntries(std::size_t order_ids) : first_owner_(order_ids, kNone) {}

  std::uint32_t of(std::uint32_t customer, std::uint32_t code, Moment moment) {
    std::uint32_t& first = first_owner_[code];
    if (first == kNone) return first = make(customer, code, moment);
    std::uint32_t entry = first;
    if (entries_[entry].customer != customer) {
      const auto [further, is_new] = further_owners_.try_emplace({code, customer}, 0U);
      if (is_new) return further->second = make(customer, code, moment);
      entry = further->second;
    }
    note_moment(entries_[entry], moment);
    return entry;
  }

  std::vector<OrderEntry> take() { return std::move(entries_); }
  [[nodiscard]] std::uint64_t shared_ids() const { return further_owners_.size(); }

 private:
  std::uint32_t make(std::uint32_t customer, std::uint32_t code, Moment moment) {
    entries_.push_back({customer, code, moment, false});
    return static_cast<std::uint32_t>(entries_.size() - 1);
  }
  static void note_moment(OrderEntry& entry, Moment moment) {
    if (moment == entry.moment) return;
    entry.two_dates = true;
    entry.moment = std::min(entry.moment, moment);
  }

  std::vector<std::uint32_t> first_owner_;
  absl::flat_hash_map<std::pair<std::uint32_t, std::uint32_t>, std::uint32_t> further_owners_;
  std::vector<OrderEntry> entries_;
};

struct PlacedOrder {
  Moment moment;
  std::uint32_t code = 0;
  std::uint32_t entry = 0;
};

/// Orders by (customer, moment, order id); fills order_offsets.
std::vector<PlacedOrder> sort_orders(const std::vector<OrderEntry>& entries, const TextArray& order_ids,
                                     std::size_t customers, OrderIndex& index) {
  index.order_offsets.assign(customers + 1, 0);
  for (const OrderEntry& entry : entries) ++index.order_offsets[entry.customer + 1];
  accumulate(index.order_offsets);
  std::vector<PlacedOrder> sorted(entries.size());
  std::vector<std::uint32_t> next(index.order_offsets.begin(), index.order_offsets.end() - 1);
  for (std::uint32_t i = 0; i < entries.size(); ++i)
    sorted[next[entries[i].customer]++] = {entries[i].moment, entries[i].code, i};
  const auto earlier = [&](const PlacedOrder& a, const PlacedOrder& b) {
    if (a.moment != b.moment) return a.moment < b.moment;
    return natural_compare(order_ids[a.code], order_ids[b.code]) < 0;
  };
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, customers, 1024), [&](const auto& range) {
    for (std::size_t c = range.begin(); c != range.end(); ++c)
      std::sort(sorted.begin() + index.order_offsets[c], sorted.begin() + index.order_offsets[c + 1],
                earlier);
  });
  return sorted;
}

/// Lines in order of (order, product, position in the source): fills line_offsets and line_positions.
/// `line_orders` says for each line of the table which order of the daybook it belongs to.
void sort_lines(const std::vector<std::uint32_t>& line_orders, std::size_t orders,
                const std::vector<std::uint32_t>& products, const std::vector<std::uint32_t>& product_ranks,
                OrderIndex& index) {
  index.line_offsets.assign(orders + 1, 0);
  for (const std::uint32_t order : line_orders) ++index.line_offsets[order + 1];
  accumulate(index.line_offsets);
  index.line_positions.resize(line_orders.size());
  std::vector<std::uint32_t> next(index.line_offsets.begin(), index.line_offsets.end() - 1);
  for (std::uint32_t i = 0; i < line_orders.size(); ++i) index.line_positions[next[line_orders[i]]++] = i;
  const auto before = [&](std::uint32_t a, std::uint32_t b) {
    return std::tuple(product_ranks[products[a]], a) < std::tuple(product_ranks[products[b]], b);
  };
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, orders, 4096), [&](const auto& range) {
    for (std::size_t o = range.begin(); o != range.end(); ++o) {
      const auto begin = index.line_positions.begin() + index.line_offsets[o];
      const auto end = index.line_positions.begin() + index.line_offsets[o + 1];
      if (end - begin > 1) std::sort(begin, end, before);
    }
  });
}

}  // namespace

OrderIndex index_orders(LineTable& table, const std::vector<std::uint32_t>& customer_ranks,
                        const std::vector<std::uint32_t>& product_ranks) {
  OrderIndex index;
  const bool has_times = !table.seconds.empty();
  OrderEntries collected(table.order_ids.size());
  std::vector<std::uint32_t>& line_entries = table.order;  // each code is replaced by its order's entry
  for (std::size_t i = 0; i < table.lines(); ++i) {
    const Moment moment{{table.days[i]}, has_times ? table.seconds[i] : Moment::kNoTime};
    line_entries[i] = collected.of(customer_ranks[table.customer[i]], table.order[i], moment);
  }
  index.shared_order_ids = collected.shared_ids();
  release(table.customer);
  release(table.days);
  release(table.seconds);

  const std::vector<OrderEntry> entries = collected.take();
  const std::vector<PlacedOrder> sorted = sort_orders(entries, table.order_ids, customer_ranks.size(), index);
  std::vector<std::uint32_t> order_of_entry(sorted.size());
  for (std::uint32_t order = 0; order < sorted.size(); ++order) {
    const PlacedOrder& placed = sorted[order];
    order_of_entry[placed.entry] = order;
    index.order_codes.push_back(placed.code);
    index.order_days.push_back(placed.moment.date.days);
    if (has_times) index.order_seconds.push_back(placed.moment.second_of_day);
  }
  for (const OrderEntry& entry : entries) index.orders_with_two_dates += entry.two_dates ? 1U : 0U;
  for (std::uint32_t& line : line_entries) line = order_of_entry[line];
  sort_lines(line_entries, sorted.size(), table.product, product_ranks, index);
  release(table.order);
  return index;
}

}  // namespace pear
