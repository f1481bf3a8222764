// The state of an aggregate for each group while it reads values.
#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
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

/// The middle value, or the mean of the two in the middle. Keeps all values: 16 bytes each.
class Median {
 public:
  explicit Median(std::uint32_t groups) : groups_(groups) {}
  void add(std::uint32_t group, std::int64_t value) { all_.emplace_back(group, value); }
  void merge(const Median& other) { all_.insert(all_.end(), other.all_.begin(), other.all_.end()); }
  [[nodiscard]] Results results() {
    std::sort(all_.begin(), all_.end());
    std::vector<std::int64_t> values(groups_, daybook::kEmptyUnits);
    for (std::size_t begin = 0; begin < all_.size();) {
      std::size_t end = begin;
      while (end < all_.size() && all_[end].first == all_[begin].first) ++end;
      const Int128 low = all_[begin + (end - begin - 1) / 2].second;
      values[all_[begin].first] =
          static_cast<std::int64_t>(divided_evenly(low + all_[begin + (end - begin) / 2].second, 2));
      begin = end;
    }
    return values;
  }

 private:
  std::uint32_t groups_;
  std::vector<std::pair<std::uint32_t, std::int64_t>> all_;
};

}  // namespace pear::expression
