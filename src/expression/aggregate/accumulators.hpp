// The state of an aggregate for each group while it reads values.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "base/decimal.hpp"
#include "daybook/column.hpp"

namespace pear::expression {

// Each takes add(group, value) in any order, merge(other) in any order, add_group(group, other, its_group),
// and gives results(): by group, kEmptyUnits for none; nothing where one leaves the range of Decimal.
using Results = std::optional<std::vector<std::int64_t>>;

class Counter {
 public:
  explicit Counter(std::uint32_t groups) : counts_(groups) {}
  void add(std::uint32_t group, std::int64_t /*value*/) { ++counts_[group]; }
  void merge(const Counter& other) {
    for (std::size_t i = 0; i < counts_.size(); ++i) counts_[i] += other.counts_[i];
  }
  void add_group(std::uint32_t group, const Counter& other, std::uint32_t its) {
    counts_[group] += other.counts_[its];
  }
  [[nodiscard]] Results results() {
    for (std::int64_t& count : counts_) count *= Decimal::kScale;
    return std::move(counts_);
  }

 private:
  std::vector<std::int64_t> counts_;
};

/// Exact sums; as an average, divided by the number of values.
class Summer {
 public:
  Summer(std::uint32_t groups, bool average) : sums_(groups), counts_(average ? groups : 0) {}
  void add(std::uint32_t group, std::int64_t value) {
    sums_[group] += value;
    if (!counts_.empty()) ++counts_[group];
  }
  void merge(const Summer& other) {
    for (std::size_t i = 0; i < sums_.size(); ++i) sums_[i] += other.sums_[i];
    for (std::size_t i = 0; i < counts_.size(); ++i) counts_[i] += other.counts_[i];
  }
  void add_group(std::uint32_t group, const Summer& other, std::uint32_t its) {
    sums_[group] += other.sums_[its];
    if (!counts_.empty()) counts_[group] += other.counts_[its];
  }
  [[nodiscard]] Results results() {
    std::vector<std::int64_t> values(sums_.size(), daybook::kEmptyUnits);
    for (std::size_t i = 0; i < sums_.size(); ++i) {
      if (!counts_.empty() && counts_[i] == 0) continue;
      const Int128 value = counts_.empty() ? sums_[i] : divided_evenly(sums_[i], counts_[i]);
      if (value > INT64_MAX || value <= INT64_MIN) return std::nullopt;
      values[i] = static_cast<std::int64_t>(value);
    }
    return values;
  }

 private:
  std::vector<Int128> sums_;
  std::vector<std::int64_t> counts_;
};

class Extreme {
 public:
  Extreme(std::uint32_t groups, bool largest) : values_(groups, daybook::kEmptyUnits), largest_(largest) {}
  void add(std::uint32_t group, std::int64_t value) {
    std::int64_t& known = values_[group];
    if (known == daybook::kEmptyUnits || (largest_ ? value > known : value < known)) known = value;
  }
  void merge(const Extreme& other) {
    for (std::uint32_t i = 0; i < values_.size(); ++i) {
      if (other.values_[i] != daybook::kEmptyUnits) add(i, other.values_[i]);
    }
  }
  void add_group(std::uint32_t group, const Extreme& other, std::uint32_t its) {
    if (other.values_[its] != daybook::kEmptyUnits) add(group, other.values_[its]);
  }
  [[nodiscard]] Results results() { return std::move(values_); }

 private:
  std::vector<std::int64_t> values_;
  bool largest_;
};

/// All values of each group, for figures that need them all: 16 bytes each.
class AllValues {
 public:
  /// of(values, begin, end) is the figure of the sorted values of one group.
  using Figure = std::function<std::int64_t(std::span<const std::int64_t>)>;

  AllValues(std::uint32_t groups, Figure figure) : groups_(groups), figure_(std::move(figure)) {}
  void add(std::uint32_t group, std::int64_t value) { all_.emplace_back(group, value); }
  void merge(const AllValues& other) { all_.insert(all_.end(), other.all_.begin(), other.all_.end()); }
  [[nodiscard]] Results results() {
    std::sort(all_.begin(), all_.end());
    std::vector<std::int64_t> figures(groups_, daybook::kEmptyUnits), values;
    for (std::size_t begin = 0; begin < all_.size();) {
      const std::uint32_t group = all_[begin].first;
      values.clear();
      for (; begin < all_.size() && all_[begin].first == group; ++begin) values.push_back(all_[begin].second);
      figures[group] = figure_(values);
    }
    return figures;
  }

 private:
  std::uint32_t groups_;
  Figure figure_;
  std::vector<std::pair<std::uint32_t, std::int64_t>> all_;
};

/// The value between two neighbours, `rest` ten-thousandths of the way from the first.
[[nodiscard]] inline std::int64_t between(std::int64_t low, std::int64_t high, std::int64_t rest) {
  const Int128 mixed = Int128{low} * (Decimal::kScale - rest) + Int128{high} * rest;
  return static_cast<std::int64_t>(divided_evenly(mixed, Decimal::kScale));
}

/// The value at a share of the way from the smallest to the largest, between two values in proportion
/// (PERCENTILE_CONT of ISO/IEC 9075-2). The share is in units of Decimal; 0.5 is the median.
[[nodiscard]] inline std::int64_t percentile_of(std::span<const std::int64_t> sorted, std::int64_t share) {
  const auto place = static_cast<std::uint64_t>(share) * (sorted.size() - 1);
  const std::size_t low = place / Decimal::kScale;
  const auto rest = static_cast<std::int64_t>(place % Decimal::kScale);
  return rest == 0 ? sorted[low] : between(sorted[low], sorted[low + 1], rest);
}

/// The standard deviation; of a sample it is empty for a single value. In floating point, in the order of the
/// values, so that it is the same for any number of threads.
[[nodiscard]] inline std::int64_t deviation_of(std::span<const std::int64_t> sorted, bool of_sample) {
  const auto count = static_cast<double>(sorted.size());
  if (of_sample && sorted.size() < 2) return daybook::kEmptyUnits;
  double sum = 0, squares = 0;
  for (const std::int64_t value : sorted) sum += static_cast<double>(value);
  const double mean = sum / count;
  for (const std::int64_t value : sorted) {
    const double difference = static_cast<double>(value) - mean;
    squares += difference * difference;
  }
  return std::llround(std::sqrt(squares / (of_sample ? count - 1 : count)));
}

}  // namespace pear::expression
