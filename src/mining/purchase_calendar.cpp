#include "mining/purchase_calendar.hpp"

#include <atomic>
#include <functional>
#include <utility>

#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::mining {
namespace {

/// visit(code, day) for each purchase line of a customer, in order of time.
template <class Visit>
class PurchaseWalker {
 public:
  PurchaseWalker(const daybook::Daybook& daybook, const expression::GroupKey& key, Visit visit)
      : daybook_(daybook), key_(key), lines_(daybook), visit_(std::move(visit)) {}

  void walk(std::uint32_t customer) const {
    const auto days = daybook_.order_days();
    const auto products = daybook_.line_products();
    const daybook::Run orders = daybook_.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      const daybook::Run own = daybook_.lines_of(order);
      for (std::uint32_t line = own.begin; line < own.end; ++line) {
        if (lines_.is_return(line)) continue;
        const std::uint32_t code = key_.codes[key_.level == daybook::Level::product ? products[line] : line];
        if (code != key_.distinct) visit_(customer, code, days[order]);
      }
    }
  }
  void walk_all() const {
    daybook::for_each_customer_run(daybook_, [&](daybook::CustomerRun run) {
      for (std::uint32_t customer = run.begin; customer < run.end; ++customer) walk(customer);
    });
  }

 private:
  const daybook::Daybook& daybook_;
  const expression::GroupKey& key_;
  daybook::Purchases lines_;
  Visit visit_;
};

template <class Compare>
void keep(std::int32_t& kept, std::int32_t value, Compare is_better) {
  std::atomic_ref shared(kept);
  std::int32_t seen = shared.load(std::memory_order_relaxed);
  while (is_better(value, seen) && !shared.compare_exchange_weak(seen, value, std::memory_order_relaxed)) {
  }
}

}  // namespace

PurchaseCalendar::PurchaseCalendar(const daybook::Daybook& daybook, const expression::GroupKey& key)
    : items_(key.distinct) {
  read_visits(daybook, key);
  set_popularity(daybook, key);
}

/// Visits of customers, and when each item is sold.
void PurchaseCalendar::read_visits(const daybook::Daybook& daybook, const expression::GroupKey& key) {
  const auto days = daybook.order_days();
  if (days.empty()) return;
  const std::int32_t last_day = *std::max_element(days.begin(), days.end());
  for (Sold& item : items_) item.first = last_day;
  std::vector<std::uint32_t> purchases(items_.size()), numbers(daybook.customers());
  // A customer has at most one visit for each order, so visits are first written in the places of orders.
  std::vector<std::int32_t> by_order(daybook.orders());
  const PurchaseWalker walker(
      daybook, key, [&](std::uint32_t customer, std::uint32_t code, std::int32_t day) {
        std::atomic_ref(purchases[code]).fetch_add(1, std::memory_order_relaxed);
        keep(items_[code].first, day, std::less<>{});
        keep(items_[code].last, day, std::greater<>{});
        std::int32_t* own = &by_order[daybook.orders_of(customer).begin];
        if (std::uint32_t& number = numbers[customer]; number == 0 || own[number - 1] != day)
          own[number++] = day;
      });
  walker.walk_all();
  begins_.reserve(numbers.size() + 1);
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    const auto own = by_order.begin() + daybook.orders_of(customer).begin;
    visits_.insert(visits_.end(), own, own + numbers[customer]);
    begins_.push_back(static_cast<std::uint32_t>(visits_.size()));
  }
  divide_time(purchases);
}

/// An item's parts have at least 20 purchases on average, and 30 days. Otherwise a customer's own purchase
/// would make its day look like the item's season.
void PurchaseCalendar::divide_time(std::span<const std::uint32_t> purchases) {
  constexpr std::uint32_t kFewest = 20;
  constexpr std::int32_t kShortest = 30;
  std::uint32_t begin = 0;
  for (std::size_t code = 0; code < items_.size(); ++code) {
    Sold& item = items_[code];
    if (purchases[code] == 0) continue;
    const std::int32_t length = item.last - item.first + 1;
    item.parts = std::clamp(purchases[code] / kFewest, 1U,
                            static_cast<std::uint32_t>(std::max(1, length / kShortest)));
    item.parts_per_day = static_cast<float>(item.parts) / static_cast<float>(length);
    item.begin = std::exchange(begin, begin + item.parts);
  }
  popularity_.resize(begin);
}

void PurchaseCalendar::set_popularity(const daybook::Daybook& daybook, const expression::GroupKey& key) {
  std::vector<std::uint32_t> purchases(popularity_.size());
  const PurchaseWalker walker(daybook, key, [&](std::uint32_t, std::uint32_t code, std::int32_t day) {
    std::atomic_ref(purchases[items_[code].part_of(day)]).fetch_add(1, std::memory_order_relaxed);
  });
  walker.walk_all();
  if (visits_.empty()) return;
  const auto [first, last] = std::minmax_element(visits_.begin(), visits_.end());
  std::vector<std::uint64_t> until(static_cast<std::size_t>(*last - *first) + 2);  // visits before each day
  for (const std::int32_t day : visits_) ++until[static_cast<std::size_t>(day - *first) + 1];
  for (std::size_t day = 1; day < until.size(); ++day) until[day] += until[day - 1];
  for (const Sold& item : items_) {
    for (std::int32_t day = item.first, next = day; day <= item.last; day = next) {
      const std::uint32_t part = item.part_of(day);
      while (next <= item.last && item.part_of(next) == part) ++next;
      const std::uint64_t visits =
          until[static_cast<std::size_t>(next - *first)] - until[static_cast<std::size_t>(day - *first)];
      popularity_[part] = static_cast<float>(purchases[part]) / static_cast<float>(visits);
    }
  }
}

void PurchaseCalendar::choose(std::uint32_t customer, std::uint32_t code, std::uint32_t times,
                              Choices& choices) const {
  const auto visits =
      std::span(visits_).subspan(begins_[customer], begins_[customer + 1] - begins_[customer]);
  choices.times = times;
  choices.first.clear();
  for (const std::int32_t day : visits) choices.first.push_back(popularity(items_[code], day));
  const double most = *std::max_element(choices.first.begin(), choices.first.end());
  for (double& weight : choices.first) weight /= most;  // so that products of many do not vanish
  // Elementary symmetric polynomials of the weights, of the visits so far and of those to come.
  std::vector<double>& sums = choices.sums;
  sums.assign(times + 1, 0);
  sums[0] = 1;
  const auto add = [&](double weight) {
    for (std::uint32_t n = times; n > 0; --n) sums[n] += weight * sums[n - 1];
  };
  choices.before.clear();
  for (const double weight : choices.first) {
    choices.before.push_back(sums[times]);
    add(weight);
  }
  choices.before.push_back(sums[times]);
  std::fill(sums.begin() + 1, sums.end(), 0);
  for (std::size_t visit = visits.size(); visit-- > 0;) {
    const double weight = choices.first[visit];
    choices.first[visit] = weight * sums[times - 1];
    add(weight);
  }
}

double PurchaseCalendar::Choices::probability_before(const Choices& later) const {
  const std::size_t with_it = times + later.times > 2 ? 1 : 0;  // both may be bought at one visit
  double forth = 0, back = 0;
  for (std::size_t visit = 0; visit < first.size(); ++visit) {
    forth += before[visit + with_it] * later.first[visit];
    back += later.before[visit + with_it] * first[visit];
  }
  return forth == back ? 0.5 : forth / (forth + back);
}

}  // namespace pear::mining
