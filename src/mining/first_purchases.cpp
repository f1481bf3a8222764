#include "mining/first_purchases.hpp"

#include <atomic>
#include <bit>
#include <utility>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::mining {
namespace {

bool has_purchase(const daybook::Daybook& daybook, const daybook::Purchases& purchases,
                  const expression::GroupKey& key, std::uint32_t order) {
  const auto products = daybook.line_products();
  const daybook::Run own = daybook.lines_of(order);
  for (std::uint32_t line = own.begin; line < own.end; ++line)
    if (purchases.is_of_product(line) &&
        key.codes[key.level == daybook::Level::product ? products[line] : line] != key.distinct)
      return true;
  return false;
}

/// visit(entry, number) for the first purchases of a customer; the number of each one's visit, from 0.
template <class Visit>
void for_each_first(std::span<const HistoryEntry> history, std::span<const std::int32_t> visits,
                    const Visit& visit) {
  std::size_t number = 0;
  for (const HistoryEntry& entry : history) {
    while (visits[number] < entry.day) ++number;
    if (entry.is_first != 0) visit(entry, number);
  }
}

void change(std::uint32_t& shared, std::uint32_t by) {
  std::atomic_ref(shared).fetch_add(by, std::memory_order_relaxed);
}

template <class Each>
void for_each_customer(const Histories& histories, const Each& each) {
  constexpr std::uint32_t kPerRun = 4'096;
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, histories.customers(), kPerRun),
                    [&](const auto& run) {
                      for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
                        each(customer);
                    });
}

}  // namespace

FirstPurchases::FirstPurchases(const daybook::Daybook& daybook, const expression::GroupKey& key,
                               const Histories& histories)
    : items_(key.distinct) {
  read_visits(daybook, key);
  divide_time(histories);
  Exposure exposure = all_visits();
  count(histories, exposure);
  tbb::parallel_for(std::size_t{0}, items_.size(), [&](std::size_t code) { fit(items_[code], exposure); });
}

std::size_t FirstPurchases::group_of(std::size_t number) {
  const auto doublings = static_cast<std::size_t>(std::bit_width(number)) - 1;
  const bool is_upper = doublings > 0 && (number >> (doublings - 1)) == 3;
  return std::min(kGroups - 1, 2 * doublings + (is_upper ? 1 : 0));
}

void FirstPurchases::read_visits(const daybook::Daybook& daybook, const expression::GroupKey& key) {
  const auto days = daybook.order_days();
  const daybook::Purchases purchases(daybook);
  // A customer has at most one visit for each order, so visits are first written in the places of orders.
  std::vector<std::int32_t> by_order(daybook.orders());
  std::vector<std::uint32_t> numbers(daybook.customers());
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer) {
      const daybook::Run orders = daybook.orders_of(customer);
      std::uint32_t end = orders.begin;
      for (std::uint32_t order = orders.begin; order < orders.end; ++order)
        if ((end == orders.begin || by_order[end - 1] != days[order]) &&
            has_purchase(daybook, purchases, key, order))
          by_order[end++] = days[order];
      numbers[customer] = end - orders.begin;
    }
  });
  begins_.reserve(numbers.size() + 1);
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    const auto own = by_order.begin() + daybook.orders_of(customer).begin;
    visits_.insert(visits_.end(), own, own + numbers[customer]);
    begins_.push_back(static_cast<std::uint32_t>(visits_.size()));
  }
}

/// An item's parts have at least 20 first purchases on average, and 30 days. Otherwise a customer's own
/// purchase would make its day look like the item's season.
void FirstPurchases::divide_time(const Histories& histories) {
  constexpr std::uint32_t kFewest = 20;
  constexpr std::int32_t kShortest = 30;
  std::vector<std::uint32_t> firsts(items_.size());
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
    if (!includes(customer)) continue;
    for (const HistoryEntry& entry : histories.of(customer)) {
      if (entry.is_first == 0) continue;
      Sold& item = items_[entry.code];
      item.first = firsts[entry.code] == 0 ? entry.day : std::min(item.first, entry.day);
      item.last = std::max(item.last, entry.day);
      ++firsts[entry.code];
    }
  }
  std::uint32_t begin = 0;
  for (std::size_t code = 0; code < items_.size(); ++code) {
    Sold& item = items_[code];
    if (firsts[code] == 0) continue;
    const std::int32_t length = item.last - item.first + 1;
    item.parts =
        std::clamp(firsts[code] / kFewest, 1U, static_cast<std::uint32_t>(std::max(1, length / kShortest)));
    item.parts_per_day = static_cast<float>(item.parts) / static_cast<float>(length);
    item.begin = std::exchange(begin, begin + item.parts);
  }
  rates_.resize(begin);
}

/// As if nobody had bought anything yet.
FirstPurchases::Exposure FirstPurchases::all_visits() const {
  Exposure exposure{std::vector<ByGroup>(rates_.size()), std::vector<ByGroup>(rates_.size())};
  if (visits_.empty()) return exposure;
  const auto ends = std::minmax_element(visits_.begin(), visits_.end());
  const std::int32_t first = *ends.first;
  std::vector<ByGroup> until(static_cast<std::size_t>(*ends.second - first) + 2);  // visits before each day
  for (std::uint32_t customer = 0; customer + 1 < begins_.size(); ++customer) {
    if (!includes(customer)) continue;
    std::size_t number = 0;
    for (const std::int32_t day : visits(customer))
      ++until[static_cast<std::size_t>(day - first) + 1][group_of(++number)];
  }
  for (std::size_t day = 1; day < until.size(); ++day)
    for (std::size_t group = 0; group < kGroups; ++group) until[day][group] += until[day - 1][group];
  tbb::parallel_for(std::size_t{0}, items_.size(), [&](std::size_t code) {
    const Sold& item = items_[code];
    for (std::int32_t day = item.first, next = day; day <= item.last; day = next) {
      const std::uint32_t part = item.part_of(day);
      while (next <= item.last && item.part_of(next) == part) ++next;
      for (std::size_t group = 0; group < kGroups; ++group)
        exposure.visits[part][group] = until[static_cast<std::size_t>(next - first)][group] -
                                       until[static_cast<std::size_t>(day - first)][group];
    }
  });
  return exposure;
}

/// Counts first purchases, and removes the visits after them. A small table has a copy for each thread, since
/// threads that change the same counts wait for each other.
void FirstPurchases::count(const Histories& histories, Exposure& exposure) const {
  constexpr std::size_t kSmall = 16'384;
  const bool is_small = rates_.size() <= kSmall;
  const Exposure none{std::vector<ByGroup>(rates_.size()), std::vector<ByGroup>(rates_.size())};
  tbb::enumerable_thread_specific<Exposure> copies(none);
  for_each_customer(histories, [&](std::uint32_t customer) {
    if (!includes(customer)) return;
    Exposure& changed = is_small ? copies.local() : exposure;
    const auto own = visits(customer);
    for_each_first(histories.of(customer), own, [&](const HistoryEntry& entry, std::size_t number) {
      const Sold& item = items_[entry.code];
      change(changed.firsts[item.part_of(entry.day)][group_of(number + 1)], 1);
      while (++number < own.size() && item.contains(own[number]))
        change(changed.visits[item.part_of(own[number])][group_of(number + 1)], ~0U);
    });
  });
  for (const Exposure& copy : copies) {
    for (std::size_t part = 0; part < rates_.size(); ++part) {
      for (std::size_t group = 0; group < kGroups; ++group) {
        exposure.firsts[part][group] += copy.firsts[part][group];
        exposure.visits[part][group] += copy.visits[part][group];
      }
    }
  }
}

/// By iterative proportional fitting of rates and factors. A factor is shrunk towards 1 with a prior weight
/// of as many first purchases.
void FirstPurchases::fit(Sold& item, const Exposure& exposure) {
  constexpr double kPriorWeight = 10;
  constexpr int kRounds = 5;
  std::array<double, kGroups> factors;
  factors.fill(1);
  std::vector<double> rates(item.parts);
  for (int round = 0; round < kRounds; ++round) {
    std::array<double, kGroups> expected = {}, firsts = {};
    for (std::uint32_t part = 0; part < item.parts; ++part) {
      const ByGroup &visits = exposure.visits[item.begin + part], &own = exposure.firsts[item.begin + part];
      double exposed = 0, bought = 0;
      for (std::size_t group = 0; group < kGroups; ++group)
        exposed += visits[group] * factors[group], bought += own[group];
      rates[part] = exposed > 0 ? bought / exposed : 0;
      for (std::size_t group = 0; group < kGroups; ++group)
        expected[group] += visits[group] * rates[part], firsts[group] += own[group];
    }
    for (std::size_t group = 0; group < kGroups; ++group)
      factors[group] = (firsts[group] + kPriorWeight) / (expected[group] + kPriorWeight);
  }
  for (std::uint32_t part = 0; part < item.parts; ++part)
    rates_[item.begin + part] = static_cast<float>(rates[part]);
  for (std::size_t group = 0; group < kGroups; ++group)
    item.factors[group] = static_cast<float>(factors[group]);
}

void FirstPurchases::set_timing(std::uint32_t customer, std::uint32_t code, Timing& timing) const {
  const Sold& item = items_[code];
  const auto own = visits(customer);
  timing.resize(own.size());
  double before = 0;
  for (std::size_t visit = 0; visit < own.size(); ++visit) {
    const std::int32_t day = own[visit];
    const double hazard =
        item.contains(day)
            ? std::min(1.0, double{rates_[item.part_of(day)]} * item.factors[group_of(visit + 1)])
            : 0;
    timing[visit] = {(1 - before) * hazard, before};
    before += timing[visit].at;
  }
}

double probability_before(const FirstPurchases::Timing& earlier, const FirstPurchases::Timing& later) {
  double forth = 0, back = 0;
  for (std::size_t visit = 0; visit < earlier.size(); ++visit) {
    forth += earlier[visit].before * later[visit].at;
    back += later[visit].before * earlier[visit].at;
  }
  return forth == back ? 0.5 : forth / (forth + back);
}

}  // namespace pear::mining
