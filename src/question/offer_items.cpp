#include "question/offer_items.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

namespace pear {
namespace {

constexpr std::uint32_t kNobody = UINT32_MAX;

template <class Bounds, class T>
std::size_t band_of(const Bounds& bounds, T value) {
  return static_cast<std::size_t>(std::upper_bound(bounds.begin(), bounds.end(), value) - bounds.begin()) - 1;
}

}  // namespace

/// Counts what customers ordered. One for each thread.
class ExpectedItems::Counter {
 public:
  Counter() = default;
  Counter(const Histories& histories, const CustomerGroups& groups, const Shelves& shelves,
          const Shares& shares, const LedProducts& led_to)
      : natural_(Natural{histories, groups, shelves, shares, LedWalk(led_to), {}, 0, kNobody}) {}

  /// The cases of a customer in order of time.
  Cell count(std::uint32_t customer, const CustomerCase& now) {
    if (natural_) return natural_->count(customer, now);
    return cell(1, now.seen - now.known);
  }

 private:
  static Cell cell(double case_seen, std::uint64_t items) {
    return {static_cast<std::uint64_t>(std::max(0.0, case_seen) * kUnits), items, items * items};
  }

  struct Natural {
    const Histories& histories;
    const CustomerGroups& groups;
    const Shelves& shelves;
    const Shares& shares;
    LedWalk led;
    std::vector<std::uint32_t> of_shelf;
    std::uint32_t read, last_customer;

    Cell count(std::uint32_t customer, const CustomerCase& now) {
      const auto history = histories.of(customer);
      if (std::exchange(last_customer, customer) != customer) {
        led.begin();
        of_shelf.assign(shelves.count, 0);
        read = 0;
      }
      for (; read < now.known; ++read) {
        led.buy(history[read].code);
        ++of_shelf[shelves.of_product[history[read].code]];
      }
      std::uint64_t items = 0;
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry)
        items += led.is_led(history[entry].code) ? 0U : 1U;
      const std::uint32_t group = groups.group_of(customer);
      double open = 1;
      for (const std::uint32_t product : led.reached()) {
        const std::uint32_t shelf = shelves.of_product[product];
        if (led.is_led(product))
          open -=
              shares.of_shelf(group, shelf, of_shelf[shelf], now.known) * shares.of_product(group, product);
      }
      return cell(open, items);
    }
  };
  std::optional<Natural> natural_;
};

ExpectedItems::ExpectedItems(const Histories& histories, const Lookback& lookback,
                             const CustomerGroups& groups)
    : groups_(groups.count), landmarks_(lookback.days.size()) {
  learn(histories, lookback, groups, [] { return Counter(); });
}

void ExpectedItems::leave_out(const Histories& histories, const Lookback& lookback,
                              const CustomerGroups& groups, const Shelves& shelves, const Shares& shares,
                              const LedProducts& led_to) {
  learn(histories, lookback, groups, [&] { return Counter(histories, groups, shelves, shares, led_to); });
}

namespace {

/// visit(customer, case) for each case of each customer, on all threads.
template <class Visit>
void for_each_case(const Histories& histories, const Lookback& lookback, std::span<const std::int32_t> days,
                   const Visit& visit) {
  constexpr std::uint32_t kCustomersPerRun = 4096;
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, histories.customers(), kCustomersPerRun),
                    [&](const auto& run) {
                      for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
                        walk_cases(histories.of(customer), lookback, days,
                                   [&](const CustomerCase& now) { visit(customer, now); });
                    });
}

}  // namespace

void ExpectedItems::learn(const Histories& histories, const Lookback& lookback, const CustomerGroups& groups,
                          const std::function<Counter()>& make_counter) {
  learn_usual(count(histories, lookback, lookback.days, groups, make_counter), lookback.overlap);
  if (lookback.season_day)
    learn_season(count(histories, lookback, std::array{*lookback.season_day}, groups, make_counter));
  by_case_.resize(histories.customers() * landmarks_);
  for_each_case(histories, lookback, lookback.days, [&](std::uint32_t customer, const CustomerCase& now) {
    by_case_[customer * landmarks_ + now.landmark] = static_cast<float>(of(now, groups.group_of(customer)));
  });
}

std::vector<ExpectedItems::Cell> ExpectedItems::count(const Histories& histories, const Lookback& lookback,
                                                      std::span<const std::int32_t> days,
                                                      const CustomerGroups& groups,
                                                      const std::function<Counter()>& make_counter) const {
  struct Own {
    Counter counter;
    std::vector<Cell> cells;
  };
  tbb::enumerable_thread_specific<Own> owns([&] { return Own{make_counter(), std::vector<Cell>(cells())}; });
  for_each_case(histories, lookback, days, [&](std::uint32_t customer, const CustomerCase& now) {
    Own& own = owns.local();
    own.cells[cell_of(place_of(now, groups.group_of(customer)))].add(own.counter.count(customer, now));
  });
  std::vector<Cell> all(cells());
  for (const Own& own : owns)
    for (std::size_t cell = 0; cell < all.size(); ++cell) all[cell].add(own.cells[cell]);
  return all;
}

ExpectedItems::Place ExpectedItems::place_of(const CustomerCase& now, std::uint32_t group) {
  const std::int32_t recency = now.day - now.last_day;
  const std::size_t turn = band_of(kRecency, recency);
  const double spread = now.last_day - now.first_day + 45, gaps = now.orders - 1;
  Place place;
  place.habit = band_of(kOrders, now.orders) * kRecency.size() + turn;
  place.pace = band_of(kPace, gaps / spread * 90);
  place.lateness = kLateness - 1;
  if (now.orders > 1) {
    const double late = std::round(2 * std::log2((recency + 7) * gaps / spread));
    place.lateness = static_cast<std::size_t>(std::clamp(late, -6.0, 6.0) + 6);
  }
  place.group_turn = group * kRecency.size() + turn;
  return place;
}

std::size_t ExpectedItems::cells() const { return kHabits * kPace.size() * kLateness * groups_; }

std::size_t ExpectedItems::cell_of(const Place& place) const {
  const std::size_t group = place.group_turn / kRecency.size();
  return ((place.habit * kPace.size() + place.pace) * kLateness + place.lateness) * groups_ + group;
}

ExpectedItems::Place ExpectedItems::place_at(std::size_t cell) const {
  Place place;
  const std::size_t group = cell % groups_;
  cell /= groups_;
  place.lateness = cell % kLateness, cell /= kLateness;
  place.pace = cell % kPace.size(), cell /= kPace.size();
  place.habit = cell;
  place.group_turn = group * kRecency.size() + place.habit % kRecency.size();
  return place;
}

double ExpectedItems::Factors::of(const Place& place) const {
  double product = 1;
  const auto levels = place.levels();
  for (std::size_t factor = 0; factor < levels.size(); ++factor) product *= of_levels[factor][levels[factor]];
  return product;
}

ExpectedItems::Factors ExpectedItems::rake(const std::vector<Cell>& cells,
                                           const std::function<double(const Place&)>& usual,
                                           double drawn) const {
  constexpr int kRounds = 20;
  Factors factors{{std::vector<double>(kHabits, 1), std::vector<double>(kPace.size(), 1),
                   std::vector<double>(kLateness, 1), std::vector<double>(groups_ * kRecency.size(), 1)}};
  struct Used {
    Place place;
    double items, usual;
  };
  std::vector<Used> used;
  for (std::size_t cell = 0; cell < cells.size(); ++cell) {
    if (cells[cell].units == 0) continue;
    const Place place = place_at(cell);
    used.push_back({place, static_cast<double>(cells[cell].items), cells[cell].cases() * usual(place)});
  }
  for (int round = 0; round < kRounds; ++round) {
    for (std::size_t factor = 0; factor < factors.of_levels.size(); ++factor) {
      std::vector<double>& own = factors.of_levels[factor];
      std::vector<double> seen(own.size(), drawn), said = seen;
      for (const Used& cell : used) {
        const std::size_t level = cell.place.levels()[factor];
        seen[level] += cell.items;
        said[level] += cell.usual * factors.of(cell.place) / own[level];
      }
      for (std::size_t level = 0; level < own.size(); ++level) own[level] = seen[level] / said[level];
    }
  }
  return factors;
}

void ExpectedItems::learn_usual(const std::vector<Cell>& cells, double overlap) {
  constexpr double kDrawn = 5;
  Cell sum;
  for (const Cell& cell : cells) sum.add(cell);
  mean_ = sum.units == 0 ? 0 : static_cast<double>(sum.items) / sum.cases();
  lumps_ = 1;
  for (int time = 0; time < 2; ++time) {  // how much is drawn depends on what is found
    usual_ = rake(
        cells, [&](const Place&) { return mean_; }, kDrawn * overlap * lumps_);
    find_spread(cells);
  }
}

void ExpectedItems::find_spread(const std::vector<Cell>& cells) {
  double beyond = 0, squares = 0, sum = 0;
  for (std::size_t cell = 0; cell < cells.size(); ++cell) {
    if (cells[cell].units == 0) continue;
    const double usual = expected(place_at(cell)), items = static_cast<double>(cells[cell].items);
    beyond += static_cast<double>(cells[cell].squares) - 2 * usual * items +
              cells[cell].cases() * usual * usual - items;
    squares += cells[cell].cases() * usual * usual;
    sum += cells[cell].cases() * usual;
  }
  if (squares <= 0) return;
  dispersion_ = std::max(0.0, beyond / squares);
  lumps_ = 1 + dispersion_ * squares / sum;
}

void ExpectedItems::learn_season(const std::vector<Cell>& cells) {
  constexpr double kDrawn = 50;  // so that few sales make no season
  const double drawn = kDrawn * lumps_;
  double seen = drawn, usual = drawn;
  for (std::size_t cell = 0; cell < cells.size(); ++cell) {
    if (cells[cell].units == 0) continue;
    seen += static_cast<double>(cells[cell].items);
    usual += cells[cell].cases() * expected(place_at(cell));
  }
  season_ = seen / usual;
  of_season_ = rake(
      cells, [&](const Place& place) { return expected(place) * season_; }, drawn);
}

double ExpectedItems::coming(const CustomerCase& now, std::uint32_t group) const {
  const Place place = place_of(now, group);
  return expected(place) * (of_season_ ? season_ * of_season_->of(place) : 1);
}

}  // namespace pear
