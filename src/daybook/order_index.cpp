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

namespace pear::daybook {
namespace {

constexpr std::uint32_t kNoOrder = std::numeric_limits<std::uint32_t>::max();

/// An order while its lines are collected: a linked list that begins at first_line and continues with `next`.
struct OrderEntry {
  std::uint32_t customer = 0;  // rank
  std::uint32_t code = 0;      // position in LineTable::order_ids
  Moment moment;
  std::uint32_t first_line = 0;
  std::uint32_t last_line = 0;
  std::uint32_t lines = 1;
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

/// Assigns lines to orders. An order id nearly always belongs to one customer, so its first owner is found by
/// position; only further owners need a hash table.
class OrderEntries {
 public:
  /// Sets `next` to the next line of the same order, for each line. It may be the array that the codes came
  /// from.
  OrderEntries(std::size_t order_ids, std::vector<std::uint32_t>& next)
      : first_owner_(order_ids, kNoOrder), next_(next) {}

  void add(std::uint32_t line, std::uint32_t customer, std::uint32_t code, Moment moment) {
    std::uint32_t& first = first_owner_[code];
    if (first == kNoOrder) {
      first = make(line, customer, code, moment);
    } else if (entries_[first].customer == customer) {
      append(entries_[first], line, moment);
    } else if (const auto [further, is_new] = further_owners_.try_emplace({code, customer}, 0U); is_new) {
      further->second = make(line, customer, code, moment);
    } else {
      append(entries_[further->second], line, moment);
    }
  }

  std::vector<OrderEntry> take() { return std::move(entries_); }
  [[nodiscard]] std::uint64_t shared_ids() const { return further_owners_.size(); }

 private:
  std::uint32_t make(std::uint32_t line, std::uint32_t customer, std::uint32_t code, Moment moment) {
    entries_.push_back({customer, code, moment, line, line});
    return static_cast<std::uint32_t>(entries_.size() - 1);
  }
  void append(OrderEntry& entry, std::uint32_t line, Moment moment) {
    next_[entry.last_line] = line;
    entry.last_line = line;
    ++entry.lines;
    if (moment == entry.moment) return;
    entry.two_dates = true;
    entry.moment = std::min(entry.moment, moment);
  }

  std::vector<std::uint32_t> first_owner_;
  absl::flat_hash_map<std::pair<std::uint32_t, std::uint32_t>, std::uint32_t> further_owners_;
  std::vector<OrderEntry> entries_;
  std::vector<std::uint32_t>& next_;
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
  const auto earlier = [&](const PlacedOrder& a, const PlacedOrder& b) {
    if (a.moment != b.moment) return a.moment < b.moment;
    return natural_compare(order_ids[a.code], order_ids[b.code]) < 0;
  };
  // Each run of customers searches all entries for its own, because writing to distant places costs more.
  constexpr std::size_t kRuns = 8;
  tbb::parallel_for(std::size_t{0}, kRuns, [&](std::size_t run) {
    const std::size_t begin = customers * run / kRuns;
    const std::size_t end = customers * (run + 1) / kRuns;
    for (std::uint32_t i = 0; i < entries.size(); ++i) {
      const std::uint32_t customer = entries[i].customer;
      if (customer >= begin && customer < end)
        sorted[next[customer]++] = {entries[i].moment, entries[i].code, i};
    }
    for (std::size_t c = begin; c != end; ++c)
      std::sort(sorted.begin() + index.order_offsets[c], sorted.begin() + index.order_offsets[c + 1],
                earlier);
  });
  return sorted;
}

/// Sorts lines by (order, product, position in the source); fills line_offsets and line_positions.
void sort_lines(const std::vector<OrderEntry>& entries, const std::vector<PlacedOrder>& orders,
                const std::vector<std::uint32_t>& next, const std::vector<std::uint32_t>& products,
                const std::vector<std::uint32_t>& product_ranks, OrderIndex& index) {
  index.line_offsets.assign(1, 0);
  index.line_offsets.reserve(orders.size() + 1);
  for (const PlacedOrder& order : orders)
    index.line_offsets.push_back(index.line_offsets.back() + entries[order.entry].lines);
  index.line_positions.resize(index.line_offsets.back());
  const auto before = [&](std::uint32_t a, std::uint32_t b) {
    return std::tuple(product_ranks[products[a]], a) < std::tuple(product_ranks[products[b]], b);
  };
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, orders.size(), 4096), [&](const auto& range) {
    for (std::size_t o = range.begin(); o != range.end(); ++o) {
      const auto begin = index.line_positions.begin() + index.line_offsets[o];
      const auto end = index.line_positions.begin() + index.line_offsets[o + 1];
      std::uint32_t line = entries[orders[o].entry].first_line;
      for (auto place = begin; place != end; ++place, line = next[line]) *place = line;
      if (end - begin > 1) std::sort(begin, end, before);
    }
  });
}

}  // namespace

OrderIndex index_orders(LineTable& table, const std::vector<std::uint32_t>& customer_ranks,
                        const std::vector<std::uint32_t>& product_ranks) {
  OrderIndex index;
  const bool has_times = !table.seconds.empty();
  std::vector<std::uint32_t>& next = table.order;  // a code is read before its line's place is overwritten
  OrderEntries collected(table.order_ids.size(), next);
  for (std::uint32_t line = 0; line < table.lines(); ++line) {
    const Moment moment{{table.days[line]}, has_times ? table.seconds[line] : Moment::kNoTime};
    collected.add(line, customer_ranks[table.customer[line]], table.order[line], moment);
  }
  index.shared_order_ids = collected.shared_ids();
  release(table.customer);
  release(table.days);
  release(table.seconds);

  const std::vector<OrderEntry> entries = collected.take();
  const std::vector<PlacedOrder> orders = sort_orders(entries, table.order_ids, customer_ranks.size(), index);
  index.order_codes.reserve(orders.size());
  index.order_days.reserve(orders.size());
  for (const PlacedOrder& order : orders) {
    index.order_codes.push_back(order.code);
    index.order_days.push_back(order.moment.date.days);
    if (has_times) index.order_seconds.push_back(order.moment.second_of_day);
  }
  for (const OrderEntry& entry : entries) index.orders_with_two_dates += entry.two_dates ? 1U : 0U;
  sort_lines(entries, orders, next, table.product, product_ranks, index);
  release(table.order);
  return index;
}

}  // namespace pear::daybook
