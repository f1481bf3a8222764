#include "question/offer_chances.hpp"

#include <algorithm>
#include <cmath>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

namespace pear {
namespace {

constexpr std::uint32_t kCustomersPerRun = 4096;

template <class Bounds, class T>
std::size_t band_of(const Bounds& bounds, T value) {
  return static_cast<std::size_t>(std::upper_bound(bounds.begin(), bounds.end(), value) - bounds.begin()) - 1;
}

}  // namespace

Shelves shelves_of(const Daybook& daybook) {
  Shelves shelves;
  shelves.of_product.assign(daybook.products(), 0);
  const Column* category = daybook.find("category");
  const auto* values = category != nullptr && category->level == Level::product
                           ? std::get_if<TextValues>(&category->values)
                           : nullptr;
  if (values == nullptr) return shelves;
  const auto none = static_cast<std::uint32_t>(values->dictionary.size());
  for (std::uint32_t product = 0; product < daybook.products(); ++product)
    shelves.of_product[product] = std::min(values->codes[product], none);
  shelves.count = none + 1;
  return shelves;
}

ExpectedItems::ExpectedItems(const Histories& histories, const Lookback& lookback,
                             const CustomerGroups& groups)
    : groups_(groups.count), landmarks_(lookback.days.size()) {
  const std::size_t size = kHabits * kPace.size() * kLateness * groups_;
  struct Own {
    std::vector<Cell> all, season;
  };
  tbb::enumerable_thread_specific<Own> owns([&] {
    return Own{std::vector<Cell>(size), std::vector<Cell>(size)};
  });
  tbb::parallel_for(
      tbb::blocked_range<std::uint32_t>(0, histories.customers(), kCustomersPerRun), [&](const auto& run) {
        Own& own = owns.local();
        for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
          walk_cases(histories.of(customer), lookback, lookback.days, [&](const CustomerCase& now) {
            const std::uint64_t items = now.seen - now.known;
            const std::size_t cell = cell_of(place_of(now, groups.group_of(customer)));
            own.all[cell].add({1, items, items * items});
            if (now.landmark == lookback.season) own.season[cell].add({1, items, 0});
          });
      });
  std::vector<Cell> all(size), season(size);
  for (const Own& own : owns)
    for (std::size_t cell = 0; cell < size; ++cell)
      all[cell].add(own.all[cell]), season[cell].add(own.season[cell]);
  rake(all);
  learn_season(season);
  by_case_.resize(histories.customers() * landmarks_);
  tbb::parallel_for(
      tbb::blocked_range<std::uint32_t>(0, histories.customers(), kCustomersPerRun), [&](const auto& run) {
        for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
          walk_cases(histories.of(customer), lookback, lookback.days, [&](const CustomerCase& now) {
            by_case_[customer * landmarks_ + now.landmark] =
                static_cast<float>(of(now, groups.group_of(customer)));
          });
      });
}

ExpectedItems::Place ExpectedItems::place_of(const CustomerCase& now, std::uint32_t group) {
  const std::int32_t recency = now.day - now.last_day;
  const double spread = now.last_day - now.first_day + 45, gaps = now.orders - 1;
  Place place;
  place.habit = band_of(kOrders, now.orders) * kRecency.size() + band_of(kRecency, recency);
  place.pace = band_of(kPace, gaps / spread * 90);
  place.lateness = kLateness - 1;
  if (now.orders > 1) {
    const double late = std::round(2 * std::log2((recency + 7) * gaps / spread));
    place.lateness = static_cast<std::size_t>(std::clamp(late, -6.0, 6.0) + 6);
  }
  place.group = group;
  return place;
}

std::size_t ExpectedItems::cell_of(const Place& place) const {
  return ((place.habit * kPace.size() + place.pace) * kLateness + place.lateness) * groups_ + place.group;
}

ExpectedItems::Place ExpectedItems::place_at(std::size_t cell) const {
  Place place;
  place.group = cell % groups_, cell /= groups_;
  place.lateness = cell % kLateness, cell /= kLateness;
  place.pace = cell % kPace.size(), cell /= kPace.size();
  place.habit = cell;
  return place;
}

double ExpectedItems::expected(const Place& place) const {
  return mean_ * factors_[0][place.habit] * factors_[1][place.pace] * factors_[2][place.lateness] *
         factors_[3][place.group];
}

double ExpectedItems::of(const CustomerCase& now, std::uint32_t group) const {
  return expected(place_of(now, group));
}

void ExpectedItems::rake(const std::vector<Cell>& cells) {
  constexpr int kRounds = 50;
  constexpr double kDrawn = 5;
  factors_ = {std::vector<double>(kHabits, 1), std::vector<double>(kPace.size(), 1),
              std::vector<double>(kLateness, 1), std::vector<double>(groups_, 1)};
  std::vector<std::size_t> used;
  Cell sum;
  for (std::size_t cell = 0; cell < cells.size(); ++cell) {
    if (cells[cell].cases > 0) used.push_back(cell);
    sum.add(cells[cell]);
  }
  if (sum.items == 0) return;
  mean_ = static_cast<double>(sum.items) / static_cast<double>(sum.cases);
  for (int round = 0; round < kRounds; ++round) {
    for (std::size_t factor = 0; factor < factors_.size(); ++factor) {
      std::vector<double> seen(factors_[factor].size(), kDrawn), usual = seen;
      for (const std::size_t cell : used) {
        const Place place = place_at(cell);
        const std::size_t level = std::array{place.habit, place.pace, place.lateness, place.group}[factor];
        seen[level] += static_cast<double>(cells[cell].items);
        usual[level] += static_cast<double>(cells[cell].cases) * expected(place);
      }
      for (std::size_t level = 0; level < seen.size(); ++level)
        factors_[factor][level] *= seen[level] / usual[level];
    }
  }
  double beyond = 0, squares = 0;
  for (const std::size_t cell : used) {
    const double usual = expected(place_at(cell)), cases = static_cast<double>(cells[cell].cases),
                 items = static_cast<double>(cells[cell].items);
    beyond += static_cast<double>(cells[cell].squares) - 2 * usual * items + cases * usual * usual - items;
    squares += cases * usual * usual;
  }
  dispersion_ = squares > 0 ? std::max(0.0, beyond / squares) : 0;
}

void ExpectedItems::learn_season(const std::vector<Cell>& cells) {
  constexpr double kDrawn = 50;  // so that few sales make no season
  double seen = kDrawn, usual = kDrawn;
  std::array<double, kRecency.size()> own_seen{}, own_usual{};
  for (std::size_t cell = 0; cell < cells.size(); ++cell) {
    if (cells[cell].cases == 0) continue;
    const Place place = place_at(cell);
    const std::size_t recency = place.habit % kRecency.size();
    own_seen[recency] += static_cast<double>(cells[cell].items);
    own_usual[recency] += static_cast<double>(cells[cell].cases) * expected(place);
  }
  for (std::size_t i = 0; i < kRecency.size(); ++i) seen += own_seen[i], usual += own_usual[i];
  season_ = seen / usual;
  for (std::size_t i = 0; i < kRecency.size(); ++i)
    season_by_recency_[i] = (own_seen[i] + kDrawn * season_) / (own_usual[i] + kDrawn);
}

double ExpectedItems::coming(const CustomerCase& now, std::uint32_t group) const {
  const Place place = place_of(now, group);
  return expected(place) * season_by_recency_[place.habit % kRecency.size()];
}

Shares::Shares(const Histories& histories, const CustomerGroups& groups, const Shelves& shelves)
    : products_(histories.counts.size()),
      shelves_(shelves.count),
      of_product_(groups.count * products_),
      of_shelf_(groups.count * shelves_) {
  constexpr double kDrawn = 20;
  std::vector<double> all(products_), all_shelf(shelves_);
  double sum = 0;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer)
    for (const HistoryEntry& entry : histories.of(customer)) {
      const std::uint32_t group = groups.group_of(customer), shelf = shelves.of_product[entry.code];
      ++of_product_[group * products_ + entry.code], ++all[entry.code];
      ++of_shelf_[group * shelves_ + shelf], ++all_shelf[shelf], ++sum;
    }
  for (std::uint32_t group = 0; group < groups.count; ++group) {
    double* own_shelf = &of_shelf_[group * shelves_];
    double own = 0;
    for (std::size_t shelf = 0; shelf < shelves_; ++shelf) own += own_shelf[shelf];
    for (std::size_t product = 0; product < products_; ++product) {
      const std::uint32_t shelf = shelves.of_product[product];
      double& share = of_product_[group * products_ + product];
      const double usual = all_shelf[shelf] > 0 ? all[product] / all_shelf[shelf] : 0;
      share = (share + kDrawn * usual) / (own_shelf[shelf] + kDrawn);
    }
    for (std::size_t shelf = 0; shelf < shelves_; ++shelf)
      own_shelf[shelf] = (own_shelf[shelf] + kDrawn * all_shelf[shelf] / sum) / (own + kDrawn);
  }
  if (shelves_ > 1) find_concentration(histories, groups, shelves);
}

/// The likeliest of powers of 2, for up to 2,000 customers evenly spread.
void Shares::find_concentration(const Histories& histories, const CustomerGroups& groups,
                                const Shelves& shelves) {
  constexpr std::uint32_t kCustomers = 2'000;
  constexpr double kLargest = 1'024;
  const std::uint32_t step = 1 + histories.customers() / kCustomers;
  double best = 0;
  std::vector<std::uint32_t> bought(shelves_);
  for (double concentration = 1; concentration <= kLargest; concentration *= 2) {
    double likelihood = 0;
    for (std::uint32_t customer = 0; customer < histories.customers(); customer += step) {
      std::fill(bought.begin(), bought.end(), 0);
      for (const HistoryEntry& entry : histories.of(customer)) ++bought[shelves.of_product[entry.code]];
      double items = 0;
      for (std::size_t shelf = 0; shelf < shelves_; ++shelf) {
        if (bought[shelf] == 0) continue;
        const double prior = concentration * of_shelf_[groups.group_of(customer) * shelves_ + shelf];
        likelihood += std::lgamma(bought[shelf] + prior) - std::lgamma(prior);
        items += bought[shelf];
      }
      likelihood += std::lgamma(concentration) - std::lgamma(items + concentration);
    }
    if (concentration == 1 || likelihood > best) best = likelihood, concentration_ = concentration;
  }
}

void Shares::adjust(const std::vector<double>& factors) {
  for (std::size_t place = 0; place < of_product_.size(); ++place) of_product_[place] *= factors[place];
}

void Shares::of_shelves(std::uint32_t group, std::span<const std::uint32_t> bought, std::uint32_t items,
                        std::span<double> shares) const {
  for (std::uint32_t shelf = 0; shelf < shelves_; ++shelf)
    shares[shelf] = of_shelf(group, shelf, bought[shelf], items);
}

}  // namespace pear
