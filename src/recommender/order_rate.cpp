#include "recommender/order_rate.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "recommender/parallel_counting.hpp"

namespace pear::recommender {
namespace {

template <class Bounds, class T>
std::size_t band_of(const Bounds& bounds, T value) {
  return static_cast<std::size_t>(std::upper_bound(bounds.begin(), bounds.end(), value) - bounds.begin()) - 1;
}

}  // namespace

/// What steps lead customers to, and what of all that they order this would be anyway.
struct OrderRate::Led {
  const Categories& shelves;
  const CategoryShares& shares;
  const TriggeredProducts& to;
};

/// Counts what customers order behind some days, one customer after another. One for each thread.
class OrderRate::Counter {
 public:
  /// Without `led` all is counted.
  Counter(const OrderRate& items, const mining::Histories& histories, const Landmarks& lookback,
          std::span<const std::int32_t> days, const analysis::CustomerGroups& groups, const Led* led)
      : items_(items),
        histories_(histories),
        lookback_(lookback),
        days_(days),
        groups_(groups),
        led_(led),
        cells_(items.cells()) {
    if (led != nullptr) walk_.emplace(led->to);
  }

  void look_at(std::uint32_t customer) {
    const auto history = histories_.of(customer);
    const std::uint32_t group = groups_.group_of(customer);
    begin();
    std::uint32_t read = 0;
    for_each_landmark(history, lookback_, days_, [&](const CustomerState& now) {
      std::uint64_t items = now.seen - now.known;
      double open = 1;
      if (led_ != nullptr) {
        for (; read < now.known; ++read) buy(history[read].code);
        for (std::uint32_t entry = now.known; entry < now.seen; ++entry)
          items -= walk_->is_led(history[entry].code) ? 1U : 0U;
        open = std::max(0.0, 1 - led_share(group, now.known));
      }
      cells_[items_.cell_of(place_of(now, group))].add(
          {static_cast<std::uint64_t>(open * kUnits), items, items * items});
    });
  }

  void add(const Counter& other) {
    for (std::size_t cell = 0; cell < cells_.size(); ++cell) cells_[cell].add(other.cells_[cell]);
  }
  [[nodiscard]] const std::vector<Cell>& cells() const { return cells_; }

 private:
  void begin() {
    if (led_ == nullptr) return;
    walk_->begin();
    of_shelf_.assign(led_->shelves.count, 0);
  }
  void buy(std::uint32_t product) {
    walk_->buy(product);
    ++of_shelf_[led_->shelves.of_product[product]];
  }
  /// Of all that is ordered anyway, the share of what the customer is led to.
  [[nodiscard]] double led_share(std::uint32_t group, std::uint32_t known) const {
    double share = 0;
    for (const std::uint32_t product : walk_->reached()) {
      const std::uint32_t shelf = led_->shelves.of_product[product];
      if (walk_->is_led(product))
        share += led_->shares.of_shelf(group, shelf, of_shelf_[shelf], known) *
                 led_->shares.of_product(group, product);
    }
    return share;
  }

  const OrderRate& items_;
  const mining::Histories& histories_;
  const Landmarks& lookback_;
  std::span<const std::int32_t> days_;
  const analysis::CustomerGroups& groups_;
  const Led* led_;
  std::optional<TriggerWalk> walk_;
  std::vector<std::uint32_t> of_shelf_;
  std::vector<Cell> cells_;
};

OrderRate::OrderRate(const mining::Histories& histories, const Landmarks& lookback,
                     const analysis::CustomerGroups& groups)
    : groups_(groups.count), landmarks_(lookback.days.size()) {
  learn(histories, lookback, groups, nullptr);
}

void OrderRate::leave_out(const mining::Histories& histories, const Landmarks& lookback,
                          const analysis::CustomerGroups& groups, const Categories& shelves,
                          const CategoryShares& shares, const TriggeredProducts& led_to) {
  const Led led{shelves, shares, led_to};
  learn(histories, lookback, groups, &led);
}

void OrderRate::learn(const mining::Histories& histories, const Landmarks& lookback,
                      const analysis::CustomerGroups& groups, const Led* led) {
  const auto counted = [&](std::span<const std::int32_t> days) {
    tbb::enumerable_thread_specific<Counter> counters(
        [&] { return Counter(*this, histories, lookback, days, groups, led); });
    look_at_all(histories, counters);
    return added_up(counters).cells();
  };
  learn_usual(counted(lookback.days), lookback.overlap);
  if (lookback.season_day) learn_season(counted(std::array{*lookback.season_day}));
  by_case_.resize(histories.customers() * landmarks_);
  tbb::parallel_for(std::uint32_t{0}, histories.customers(), [&](std::uint32_t customer) {
    for_each_landmark(histories.of(customer), lookback, lookback.days, [&](const CustomerState& now) {
      by_case_[customer * landmarks_ + now.landmark] = static_cast<float>(of(now, groups.group_of(customer)));
    });
  });
}

OrderRate::Place OrderRate::place_of(const CustomerState& now, std::uint32_t group) {
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

std::size_t OrderRate::cells() const { return kHabits * kPace.size() * kLateness * groups_; }

std::size_t OrderRate::cell_of(const Place& place) const {
  const std::size_t group = place.group_turn / kRecency.size();
  return ((place.habit * kPace.size() + place.pace) * kLateness + place.lateness) * groups_ + group;
}

OrderRate::Place OrderRate::place_at(std::size_t cell) const {
  Place place;
  const std::size_t group = cell % groups_;
  cell /= groups_;
  place.lateness = cell % kLateness, cell /= kLateness;
  place.pace = cell % kPace.size(), cell /= kPace.size();
  place.habit = cell;
  place.group_turn = group * kRecency.size() + place.habit % kRecency.size();
  return place;
}

double OrderRate::Factors::of(const Place& place) const {
  double product = 1;
  const auto levels = place.levels();
  for (std::size_t factor = 0; factor < levels.size(); ++factor) product *= of_levels[factor][levels[factor]];
  return product;
}

OrderRate::Factors OrderRate::rake(const std::vector<Cell>& cells,
                                   const std::function<double(const Place&)>& usual, double drawn) const {
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

void OrderRate::learn_usual(const std::vector<Cell>& cells, double overlap) {
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

void OrderRate::find_spread(const std::vector<Cell>& cells) {
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

void OrderRate::learn_season(const std::vector<Cell>& cells) {
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

double OrderRate::coming(const CustomerState& now, std::uint32_t group) const {
  const Place place = place_of(now, group);
  return expected(place) * (of_season_ ? season_ * of_season_->of(place) : 1);
}

}  // namespace pear::recommender
