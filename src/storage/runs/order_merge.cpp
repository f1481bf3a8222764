#include "storage/runs/order_merge.hpp"

#include <algorithm>
#include <limits>
#include <queue>
#include <string>
#include <utility>

#include "base/date.hpp"
#include "base/natural_order.hpp"
#include "storage/runs/array_pages.hpp"

namespace pear::storage {
namespace {

/// An order of the customer at hand.
struct Placed {
  Moment moment;
  std::string id;
  std::uint32_t lines = 0;
  std::uint16_t run = 0;
};

bool earlier(const Placed& a, const Placed& b) {
  if (a.moment != b.moment) return a.moment < b.moment;
  return natural_compare(a.id, b.id) < 0;
}

/// Where the reading of one run is.
class RunReader {
 public:
  RunReader(const SortedRun& run, std::uint16_t number)
      : number_(number),
        customers_(run.file, run.customer_ids),
        order_ids_(run.file, run.order_ids),
        orders_(run.file, run.orders_per_customer),
        lines_(run.file, run.lines_per_order),
        days_(run.file, run.order_days),
        seconds_(run.file, run.order_seconds),
        has_times_(!run.order_seconds.empty()) {}

  [[nodiscard]] const std::string& customer() const { return customer_; }
  /// False at the end.
  OrError<bool> next_customer() {
    if (customers_.at_end()) return false;
    PEAR_ASSIGN(const std::string_view id, customers_.next());
    customer_ = id;
    return true;
  }
  /// Adds the orders of the customer.
  OrError<void> take_orders(std::vector<Placed>& into) {
    PEAR_ASSIGN(const auto counts, orders_.next(1));
    for (std::uint32_t left = counts.front(); left > 0; --left) {
      Placed order;
      PEAR_ASSIGN(const auto day, days_.next(1));
      order.moment = {Date{day.front()}, Moment::kNoTime};
      if (has_times_) {
        PEAR_ASSIGN(const auto seconds, seconds_.next(1));
        order.moment.second_of_day = seconds.front();
      }
      PEAR_ASSIGN(const auto lines, lines_.next(1));
      order.lines = lines.front();
      PEAR_ASSIGN(const std::string_view id, order_ids_.next());
      order.id = id;
      order.run = number_;
      into.push_back(std::move(order));
    }
    return {};
  }

 private:
  std::uint16_t number_;
  TextCursor customers_, order_ids_;
  ArrayCursor<std::uint32_t> orders_, lines_;
  ArrayCursor<std::int32_t> days_, seconds_;
  bool has_times_;
  std::string customer_;
};

}  // namespace

OrError<OrderMerge> merge_orders(const std::vector<SortedRun>& runs) {
  if (runs.size() > std::numeric_limits<std::uint16_t>::max())
    return internal_error("there are too many sorted runs");
  OrderMerge merge;
  daybook::DaybookParts& parts = merge.parts;
  std::vector<std::int32_t> days;
  const bool has_times =
      std::any_of(runs.begin(), runs.end(), [](const SortedRun& run) { return !run.order_seconds.empty(); });
  std::vector<RunReader> readers;
  for (std::size_t i = 0; i < runs.size(); ++i) readers.emplace_back(runs[i], static_cast<std::uint16_t>(i));
  const auto later = [&](std::size_t a, std::size_t b) {
    const auto order = natural_compare(readers[a].customer(), readers[b].customer());
    return order != 0 ? order > 0 : a > b;
  };
  std::priority_queue<std::size_t, std::vector<std::size_t>, decltype(later)> next(later);
  const auto advance = [&](std::size_t run) -> OrError<void> {
    PEAR_ASSIGN(const bool more, readers[run].next_customer());
    if (more) next.push(run);
    return {};
  };
  for (std::size_t run = 0; run < readers.size(); ++run) PEAR_TRY(advance(run));

  std::vector<Placed> orders;
  while (!next.empty()) {
    const std::string customer = readers[next.top()].customer();
    orders.clear();
    std::size_t sources = 0;
    while (!next.empty() && readers[next.top()].customer() == customer) {
      const std::size_t run = next.top();
      next.pop();
      PEAR_TRY(readers[run].take_orders(orders));
      PEAR_TRY(advance(run));
      ++sources;
    }
    if (sources > 1) std::sort(orders.begin(), orders.end(), earlier);
    for (const Placed& order : orders) {
      parts.line_offsets.push_back(parts.line_offsets.back() + order.lines);
      days.push_back(order.moment.date.days);
      if (has_times) merge.order_seconds.push_back(order.moment.second_of_day);
      merge.run_of_order.push_back(order.run);
    }
    parts.customer_ids.push_back(customer);
    parts.order_offsets.push_back(static_cast<std::uint32_t>(days.size()));
  }
  parts.columns.push_back(
      {std::string(daybook::role::kOrderDate), daybook::Level::order, daybook::DateValues{std::move(days)}});
  return merge;
}

}  // namespace pear::storage
