#include "mining/basket_null_model.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <optional>
#include <utility>

#include <tbb/parallel_for.h>

#include "base/date.hpp"

namespace pear::mining {
namespace {

constexpr std::uint32_t kNowhere = std::numeric_limits<std::uint32_t>::max();

/// Multiplies a polynomial by (1 + weight z), up to its degree.
void multiply(std::vector<double>& polynomial, double weight) {
  for (std::size_t k = polynomial.size(); k-- > 1;) polynomial[k] += weight * polynomial[k - 1];
}

/// Divides it by (1 + weight z). Stable if an item of that weight is in few baskets of each size.
void divide(std::vector<double>& polynomial, double weight) {
  for (std::size_t k = 1; k < polynomial.size(); ++k) polynomial[k] -= weight * polynomial[k - 1];
}

/// By how much divide() may enlarge rounding errors.
double enlargement(const std::vector<double>& polynomial, double weight) {
  double factor = 1;
  for (std::size_t k = polynomial.size(); k-- > 1;) {
    const double included = weight * polynomial[k - 1] / polynomial[k];  // at least the item's probability
    if (!(included < 1)) return std::numeric_limits<double>::infinity();
    if (included <= 0.5) break;  // and less in smaller baskets
    factor *= included / (1 - included);
  }
  return factor;
}

}  // namespace

PeriodModel::PeriodModel(const std::vector<std::uint32_t>& counts, const std::vector<double>& sizes) {
  constexpr int kMostRounds = 200;
  constexpr double kPrecise = 1e-7;
  group(counts);
  set_up_sizes(sizes);
  compute();
  for (int round = 0; round < kMostRounds && improve() > kPrecise; ++round) compute();
}

void PeriodModel::group(const std::vector<std::uint32_t>& counts) {
  std::map<std::uint32_t, std::uint32_t> places;
  for (const std::uint32_t count : counts) places.emplace(count, 0);
  for (auto& [count, place] : places) {
    place = static_cast<std::uint32_t>(groups_.size());
    groups_.push_back({static_cast<double>(count), 0, static_cast<double>(count), false});
  }
  for (const std::uint32_t count : counts) {
    group_of_.push_back(places.at(count));
    groups_[group_of_.back()].items += 1;
  }
}

void PeriodModel::set_up_sizes(const std::vector<double>& sizes) {
  constexpr std::size_t kLargestExact = 1000;  // beyond, e_k would leave the range of doubles
  constexpr std::size_t kAlwaysExact = 12;     // the approximation is for large baskets
  const std::size_t exact = std::min(kLargestExact, std::max(kAlwaysExact, group_of_.size() / 3));
  exact_sizes_.assign(sizes.begin(),
                      sizes.begin() + static_cast<std::ptrdiff_t>(std::min(sizes.size(), exact + 1)));
  while (exact_sizes_.size() > 1 && exact_sizes_.back() == 0) exact_sizes_.pop_back();
  for (std::size_t size = exact + 1; size < sizes.size(); ++size)
    if (sizes[size] > 0) large_.push_back({static_cast<double>(size), sizes[size], 1, 0});
}

/// Weights have no unit. Adding up to a third of the largest size, they keep all e_k in the range of doubles.
void PeriodModel::rescale() {
  double sum = 0;
  for (const Group& group : groups_) sum += group.items * group.weight;
  const double factor = std::max(1.0, static_cast<double>(exact_sizes_.size()) / 3) / sum;
  for (Group& group : groups_) group.weight *= factor;
}

/// Finds the items whose weights cannot be divided out without loss. They are kept apart from `rest_`.
void PeriodModel::choose_dominant() {
  constexpr double kAcceptable = 1e6;  // of 1e-16
  for (Group& group : groups_) group.is_dominant = false;
  for (;;) {
    rest_.assign(exact_sizes_.size(), 0);
    rest_[0] = 1;
    Group* heaviest = nullptr;
    for (Group& group : groups_) {
      if (group.is_dominant) continue;
      for (double item = 0; item < group.items; ++item) multiply(rest_, group.weight);
      if (heaviest == nullptr || group.weight > heaviest->weight) heaviest = &group;
    }
    if (heaviest == nullptr || enlargement(rest_, heaviest->weight) <= kAcceptable) return;
    heaviest->is_dominant = true;
  }
}

/// By t the sum over k of mass_k e_{k-t}, of the dominant items without one of each of these groups.
std::vector<double> PeriodModel::tails_without(std::span<const std::uint32_t> groups) const {
  std::vector<double> dominant(mass_.size(), 0);
  dominant[0] = 1;
  std::size_t degree = 0;
  for (std::uint32_t place = 0; place < groups_.size(); ++place) {
    if (!groups_[place].is_dominant) continue;
    const auto left_out = std::count(groups.begin(), groups.end(), place);
    for (double item = static_cast<double>(left_out); item < groups_[place].items; ++item, ++degree)
      multiply(dominant, groups_[place].weight);
  }
  std::vector<double> tails(mass_.size(), 0);
  for (std::size_t t = 0; t < tails.size(); ++t)
    for (std::size_t k = t; k < mass_.size() && k - t <= degree; ++k) tails[t] += mass_[k] * dominant[k - t];
  return tails;
}

void PeriodModel::compute() {
  rescale();
  choose_dominant();
  std::vector<double> all = rest_;
  for (const Group& group : groups_)
    if (group.is_dominant)
      for (double item = 0; item < group.items; ++item) multiply(all, group.weight);
  mass_.assign(exact_sizes_.size(), 0);
  for (std::size_t k = 1; k < mass_.size(); ++k)
    if (exact_sizes_[k] > 0) mass_[k] = exact_sizes_[k] / all[k];
  tails_ = tails_without({});
  moments_.assign(mass_.size(), 0);
  for (std::size_t t = 0; t < mass_.size(); ++t)
    for (std::size_t k = t; k < mass_.size(); ++k) moments_[t] += mass_[k] * all[k - t];
  for (LargeSize& large : large_) solve(large);
}

double PeriodModel::improve() {
  double largest = 0;
  std::vector<double> fitted;
  for (std::uint32_t place = 0; place < groups_.size(); ++place) {
    const std::array<std::uint32_t, 1> one = {place};
    fitted.push_back(exact(one) + approximate(one));
  }
  for (std::size_t place = 0; place < groups_.size(); ++place) {
    Group& group = groups_[place];
    largest = std::max(largest, std::abs(fitted[place] / group.count - 1));
    group.weight *= group.count / fitted[place];
  }
  return largest;
}

/// Leaves the items out of e_k by the series 1 / (1 + weight z) = 1 - weight z + ..., if their weights are
/// small enough: with the complete homogeneous symmetric polynomials h_m of their weights, the sum over m of
/// (-1)^m h_m moments_{s+m}.
double PeriodModel::exact(std::span<const std::uint32_t> groups) const {
  constexpr double kQuick = 0.3, kNegligible = 1e-12;
  const std::size_t size = groups.size();
  if (size >= moments_.size()) return 0;  // no basket is that large
  double heaviest = 0, product = 1;
  for (const std::uint32_t place : groups) {
    heaviest = std::max(heaviest, groups_[place].weight);
    product *= groups_[place].weight;
  }
  if (size + 1 < moments_.size() && heaviest * moments_[size + 1] > kQuick * moments_[size])
    return by_division(groups);
  std::vector<double> parts(size, 1);  // h_m of the first items
  double sum = moments_[size], sign = 1;
  for (std::size_t at = size + 1; at < moments_.size(); ++at) {
    double h = 0;
    for (std::size_t item = 0; item < size; ++item)
      parts[item] = h += groups_[groups[item]].weight * parts[item];
    sign = -sign;
    const double term = h * moments_[at];
    sum += sign * term;
    if (term < kNegligible * sum) break;
  }
  return product * sum;
}

double PeriodModel::by_division(std::span<const std::uint32_t> groups) const {
  std::vector<double> others = rest_;
  double product = 1;
  bool any_dominant = false;
  for (const std::uint32_t place : groups) {
    product *= groups_[place].weight;
    if (groups_[place].is_dominant)
      any_dominant = true;
    else
      divide(others, groups_[place].weight);
  }
  const std::vector<double> changed = any_dominant ? tails_without(groups) : std::vector<double>{};
  const std::vector<double>& tails = any_dominant ? changed : tails_;
  double sum = 0;
  for (std::size_t k = groups.size(); k < tails.size(); ++k) sum += tails[k] * others[k - groups.size()];
  return std::max(0.0, product * sum);
}

/// Finds the tilt by Newton's method on its logarithm, and the correction's total.
void PeriodModel::solve(LargeSize& large) const {
  constexpr int kMostRounds = 100;
  if (large.size >= static_cast<double>(group_of_.size())) {  // every item
    large.tilt = std::numeric_limits<double>::max();
    return;
  }
  double log_tilt = std::log(large.size);
  for (int round = 0; round < kMostRounds; ++round) {
    double sum = 0, slope = 0;
    large.tilt = std::exp(log_tilt);
    for (const Group& group : groups_) {
      const double p = large.probability(group.weight);
      sum += group.items * p;
      slope += group.items * p * (1 - p);
    }
    const double step = std::clamp((large.size - sum) / slope, -2.0, 2.0);
    log_tilt += step;
    if (std::abs(step) < 1e-12) break;
  }
  large.total = std::sqrt(large.size);
  for (int round = 0; round < kMostRounds; ++round) {
    double sum = 0;
    for (const Group& group : groups_) {
      const double p = large.probability(group.weight);
      sum += group.items * p * large.correction(p);
    }
    const double next = std::sqrt(large.total * sum);  // the geometric mean converges where sum alternates
    const bool is_settled = std::abs(next - large.total) < 1e-10 * large.total;
    large.total = next;
    if (is_settled) break;
  }
}

/// g of an item: two items are together in a share p_i p_j (1 - g_i g_j) of the baskets of this size. With
/// g (total - p g) = 1 - p, where `total` is the sum of p g, the shares with each item add up to p (size -
/// 1).
double PeriodModel::LargeSize::correction(double p) const {
  if (p >= 1 || total <= 0) return 0;
  const double root = std::sqrt(std::max(0.0, total * total - 4 * p * (1 - p)));
  return 2 * (1 - p) / (total + root);
}

double PeriodModel::approximate(std::span<const std::uint32_t> groups) const {
  double sum = 0;
  for (const LargeSize& large : large_) {
    double share = 1, corrections = 0;
    for (const std::uint32_t place : groups) {
      const bool is_full = large.tilt == std::numeric_limits<double>::max();
      const double p = is_full ? 1 : large.probability(groups_[place].weight), g = large.correction(p);
      share *= p * std::max(0.0, 1 - g * corrections);
      corrections += g;
    }
    sum += large.baskets * share;
  }
  return sum;
}

double PeriodModel::expected(std::span<const std::uint32_t> items) const {
  std::vector<std::uint32_t> groups;
  for (const std::uint32_t item : items) groups.push_back(group_of_[item]);
  return exact(groups) + approximate(groups);
}

ModelPeriod choose_period(Month first, Month last, std::size_t baskets, std::size_t items) {
  constexpr std::size_t kFewest = 100;            // baskets of a period, on average
  constexpr std::size_t kMostCells = 20'000'000;  // periods x items
  for (const ModelPeriod& period :
       {ModelPeriod{"month", 1}, ModelPeriod{"quarter", 3}, ModelPeriod{"year", 12}}) {
    const auto size = static_cast<std::size_t>(period.of(last) - period.of(first)) + 1;
    if (size > 1 && baskets >= size * kFewest && size * items <= kMostCells) return period;
  }
  return {};
}

BasketNullModel::BasketNullModel(const Baskets& baskets, bool by_period) {
  if (baskets.days.empty()) return;
  const auto [first, last] = std::minmax_element(baskets.days.begin(), baskets.days.end());
  const std::size_t items = baskets.counts.size();
  if (by_period) period_ = choose_period(month_of({*first}), month_of({*last}), baskets.size(), items);
  const std::int32_t begin = period_.of(month_of({*first}));
  std::vector<std::uint32_t> period_of_day;
  for (std::int32_t day = *first; day <= *last; ++day)
    period_of_day.push_back(static_cast<std::uint32_t>(period_.of(month_of({day})) - begin));
  std::vector<BasketMargins> margins(period_of_day.back() + 1, {std::vector<std::uint32_t>(items), {}});
  for (std::size_t basket = 0; basket < baskets.size(); ++basket) {
    BasketMargins& own = margins[period_of_day[static_cast<std::size_t>(baskets.days[basket] - *first)]];
    const auto codes = baskets.of(basket);
    for (const std::uint32_t code : codes) ++own.counts[code];
    if (own.sizes.size() <= codes.size()) own.sizes.resize(codes.size() + 1);
    ++own.sizes[codes.size()];
  }
  fit(std::move(margins));
}

BasketNullModel::BasketNullModel(std::vector<BasketMargins> margins, ModelPeriod period) : period_(period) {
  fit(std::move(margins));
}

void BasketNullModel::fit(std::vector<BasketMargins> margins) {
  places_.resize(margins.size());
  std::vector<std::optional<PeriodModel>> fitted(margins.size());
  tbb::parallel_for(std::size_t{0}, margins.size(), [&](std::size_t period) {
    std::vector<std::uint32_t>& places = places_[period] = std::move(margins[period].counts);
    std::vector<std::uint32_t> counts;
    for (std::uint32_t& place : places) {
      const std::uint32_t count = std::exchange(place, kNowhere);
      if (count == 0) continue;
      place = static_cast<std::uint32_t>(counts.size());
      counts.push_back(count);
    }
    if (!counts.empty()) fitted[period].emplace(counts, margins[period].sizes);
  });
  std::vector<std::vector<std::uint32_t>> of_periods;  // without those that have no basket
  for (std::size_t period = 0; period < fitted.size(); ++period) {
    if (!fitted[period]) continue;
    periods_.push_back(std::move(*fitted[period]));
    of_periods.push_back(std::move(places_[period]));
  }
  places_ = std::move(of_periods);
}

double BasketNullModel::expected(std::span<const std::uint32_t> codes) const {
  double sum = 0;
  std::vector<std::uint32_t> items(codes.size());
  for (std::size_t period = 0; period < periods_.size(); ++period) {
    const std::vector<std::uint32_t>& places = places_[period];
    std::transform(codes.begin(), codes.end(), items.begin(),
                   [&](std::uint32_t code) { return places[code]; });
    if (std::find(items.begin(), items.end(), kNowhere) == items.end())
      sum += periods_[period].expected(items);
  }
  return sum;
}

}  // namespace pear::mining
