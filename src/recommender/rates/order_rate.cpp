#include "recommender/rates/order_rate.hpp"

#include <algorithm>
#include <cmath>

#include "recommender/parallel_counting.hpp"
#include "recommender/prior_weights.hpp"

namespace pear::recommender {
namespace {

// The first values of the levels of the factors; finer if there are many customers.
constexpr std::array<std::uint32_t, 10> kOrders = {1, 2, 3, 4, 5, 7, 9, 13, 17, 33};
constexpr std::array<std::int32_t, 9> kDaysAgo = {0, 8, 15, 30, 60, 90, 180, 270, 365};
constexpr std::array<double, 7> kOrdersIn90Days = {0, 0.5, 1, 1.5, 2, 3, 5};
constexpr std::size_t kLatenesses = 14;  ///< days since the last order divided by the customer's own gap, in
                                         ///< half powers of 2; the last: no gap yet
constexpr std::size_t kHabits = kOrders.size() * kDaysAgo.size();
constexpr double kUnits = 1e6;  ///< exposures are counted in millionths

template <class Bounds, class T>
std::size_t level_of(const Bounds& bounds, T value) {
  return static_cast<std::size_t>(std::upper_bound(bounds.begin(), bounds.end(), value) - bounds.begin()) - 1;
}

}  // namespace

/// Customers with the same levels of all factors: their exposure and what they ordered. Integers, so that the
/// order in which they are added does not matter.
struct OrderRate::CellCount {
  std::uint64_t units = 0, items = 0, squares = 0;
  void add(const CellCount& other) { units += other.units, items += other.items, squares += other.squares; }
  [[nodiscard]] double exposures() const { return static_cast<double>(units) / kUnits; }
};

/// Counts what customers order after a landmark, one customer after another. One for each thread.
class OrderRate::CellCounter {
 public:
  CellCounter(const OrderRate& rate, const mining::Histories& histories, const Landmarks& landmarks,
              std::span<const std::int32_t> days, const analysis::CustomerGroups& groups,
              const LeftOut* left_out)
      : rate_(rate),
        histories_(histories),
        landmarks_(landmarks),
        days_(days),
        groups_(groups),
        left_out_(left_out),
        cells_(rate.cells()) {
    if (left_out != nullptr) walk_.emplace(left_out->triggered);
  }

  void look_at(std::uint32_t customer) {
    const auto history = histories_.of(customer);
    const std::uint32_t group = groups_.group_of(customer);
    begin();
    std::uint32_t read = 0;
    for_each_landmark(history, landmarks_, days_, [&](const CustomerState& now) {
      std::uint64_t items = now.seen - now.known;
      double open = 1;
      if (left_out_ != nullptr) {
        for (; read < now.known; ++read) buy(history[read].code);
        for (std::uint32_t entry = now.known; entry < now.seen; ++entry)
          items -= walk_->is_triggered(history[entry].code) ? 1U : 0U;
        open = std::max(0.0, 1 - triggered_share(group, now.known));
      }
      cells_[rate_.cell_of(levels_of(now, group))].add(
          {static_cast<std::uint64_t>(open * kUnits), items, items * items});
    });
  }

  void add(const CellCounter& other) {
    for (std::size_t cell = 0; cell < cells_.size(); ++cell) cells_[cell].add(other.cells_[cell]);
  }
  [[nodiscard]] const std::vector<CellCount>& cells() const { return cells_; }

 private:
  void begin() {
    if (left_out_ == nullptr) return;
    walk_->begin();
    of_category_.assign(left_out_->categories.count, 0);
  }
  void buy(std::uint32_t product) {
    walk_->buy(product);
    ++of_category_[left_out_->categories.of_product[product]];
  }
  /// The share of the products triggered for the customer in all that is ordered without a trigger.
  [[nodiscard]] double triggered_share(std::uint32_t group, std::uint32_t known) const {
    double share = 0;
    for (const std::uint32_t product : walk_->ever_triggered()) {
      const std::uint32_t category = left_out_->categories.of_product[product];
      if (walk_->is_triggered(product))
        share += left_out_->shares.of_category(group, category, of_category_[category], known) *
                 left_out_->shares.of_product(group, product);
    }
    return share;
  }

  const OrderRate& rate_;
  const mining::Histories& histories_;
  const Landmarks& landmarks_;
  std::span<const std::int32_t> days_;
  const analysis::CustomerGroups& groups_;
  const LeftOut* left_out_;
  std::optional<TriggerWalk> walk_;
  std::vector<std::uint32_t> of_category_;
  std::vector<CellCount> cells_;
};

OrderRate OrderRate::fit(const mining::Histories& histories, const Landmarks& landmarks,
                         const analysis::CustomerGroups& groups, const LeftOut* left_out) {
  OrderRate rate(groups.count);
  const auto counted = [&](std::span<const std::int32_t> days) {
    tbb::enumerable_thread_specific<CellCounter> counters(
        [&] { return CellCounter(rate, histories, landmarks, days, groups, left_out); });
    look_at_all(histories, counters);
    return added_up(counters).cells();
  };
  rate.fit_usual(counted(landmarks.days), landmarks.overlap);
  if (landmarks.season_day) rate.fit_season(counted(std::array{*landmarks.season_day}));
  rate.landmarks_ = landmarks.days.size();
  rate.by_landmark_.resize(histories.customers() * rate.landmarks_);
  tbb::parallel_for(std::uint32_t{0}, histories.customers(), [&](std::uint32_t customer) {
    for_each_landmark(histories.of(customer), landmarks, landmarks.days, [&](const CustomerState& now) {
      rate.by_landmark_[customer * rate.landmarks_ + now.landmark] =
          static_cast<float>(rate.usual(now, groups.group_of(customer)));
    });
  });
  return rate;
}

OrderRate::Levels OrderRate::levels_of(const CustomerState& now, std::uint32_t group) {
  constexpr double kFirstGap = 45;   // used as the gap before the first order
  constexpr double kGrace = 7;       // days, so that orders of one week are not late
  constexpr double kMostLate = 6.0;  // half powers of 2 to either side
  const std::int32_t days_ago = now.day - now.last_day;
  const std::size_t recency = level_of(kDaysAgo, days_ago);
  const double spread = now.last_day - now.first_day + kFirstGap, gaps = now.orders - 1;
  Levels levels{};
  levels[kHabit] = level_of(kOrders, now.orders) * kDaysAgo.size() + recency;
  levels[kPace] = level_of(kOrdersIn90Days, gaps / spread * 90);
  levels[kLateness] = kLatenesses - 1;
  if (now.orders > 1) {
    const double late = std::round(2 * std::log2((days_ago + kGrace) * gaps / spread));
    levels[kLateness] = static_cast<std::size_t>(std::clamp(late, -kMostLate, kMostLate) + kMostLate);
  }
  levels[kGroupRecency] = group * kDaysAgo.size() + recency;
  return levels;
}

OrderRate::Levels OrderRate::level_counts() const {
  return {kHabits, kOrdersIn90Days.size(), kLatenesses, groups_ * kDaysAgo.size()};
}

std::size_t OrderRate::cells() const { return kHabits * kOrdersIn90Days.size() * kLatenesses * groups_; }

/// A mixed-radix number: of the group's levels only the group, since the order-gap level determines the
/// recency.
std::size_t OrderRate::cell_of(const Levels& levels) const {
  const std::size_t group = levels[kGroupRecency] / kDaysAgo.size();
  return ((levels[kHabit] * kOrdersIn90Days.size() + levels[kPace]) * kLatenesses + levels[kLateness]) *
             groups_ +
         group;
}

OrderRate::Levels OrderRate::levels_at(std::size_t cell) const {
  Levels levels{};
  const std::size_t group = cell % groups_;
  cell /= groups_;
  levels[kLateness] = cell % kLatenesses;
  cell /= kLatenesses;
  levels[kPace] = cell % kOrdersIn90Days.size();
  levels[kHabit] = cell / kOrdersIn90Days.size();
  levels[kGroupRecency] = group * kDaysAgo.size() + levels[kHabit] % kDaysAgo.size();
  return levels;
}

void OrderRate::fit_usual(const std::vector<CellCount>& cells, double overlap) {
  CellCount sum;
  for (const CellCount& cell : cells) sum.add(cell);
  mean_ = sum.units == 0 ? 0 : static_cast<double>(sum.items) / sum.exposures();
  RakedCells raked;
  for (std::size_t cell = 0; cell < cells.size(); ++cell)
    if (cells[cell].units > 0)
      raked.push_back(
          {levels_at(cell), static_cast<double>(cells[cell].items), cells[cell].exposures() * mean_});
  for (int time = 0; time < 2;
       ++time) {  // the prior weight depends on the dispersion, and the dispersion on the fit
    factors_ = statistics::rake<kFactors>(raked, level_counts(),
                                          prior_weight::kOrderRate * overlap * variance_to_mean_);
    fit_dispersion(cells);
  }
}

/// The dispersion by the method of moments: Var = m + dispersion x m^2.
void OrderRate::fit_dispersion(const std::vector<CellCount>& cells) {
  double beyond = 0, squares = 0, sum = 0;
  for (std::size_t cell = 0; cell < cells.size(); ++cell) {
    if (cells[cell].units == 0) continue;
    const double expected = usual(levels_at(cell)), items = static_cast<double>(cells[cell].items);
    beyond += static_cast<double>(cells[cell].squares) - 2 * expected * items +
              cells[cell].exposures() * expected * expected - items;
    squares += cells[cell].exposures() * expected * expected;
    sum += cells[cell].exposures() * expected;
  }
  if (squares <= 0) return;
  dispersion_ = std::max(0.0, beyond / squares);
  variance_to_mean_ = 1 + dispersion_ * squares / sum;
}

void OrderRate::fit_season(const std::vector<CellCount>& cells) {
  const double weight = prior_weight::kSeason * variance_to_mean_;
  double observed = weight, expected = weight;
  for (std::size_t cell = 0; cell < cells.size(); ++cell) {
    if (cells[cell].units == 0) continue;
    observed += static_cast<double>(cells[cell].items);
    expected += cells[cell].exposures() * usual(levels_at(cell));
  }
  season_ = observed / expected;
  RakedCells raked;
  for (std::size_t cell = 0; cell < cells.size(); ++cell) {
    if (cells[cell].units == 0) continue;
    const Levels levels = levels_at(cell);
    raked.push_back({levels, static_cast<double>(cells[cell].items),
                     cells[cell].exposures() * (usual(levels) * season_)});
  }
  season_factors_ = statistics::rake<kFactors>(raked, level_counts(), weight);
}

double OrderRate::forecast(const CustomerState& now, std::uint32_t group) const {
  const Levels levels = levels_of(now, group);
  return usual(levels) * (season_factors_ ? season_ * season_factors_->at(levels) : 1);
}

}  // namespace pear::recommender
