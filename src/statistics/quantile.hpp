// Quantiles that are values of the data.
#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
#include <vector>

namespace pear::statistics {

/// A quantile as a fraction, so that rounding decides nothing: {1, 4} is the first quartile.
struct Fraction {
  std::uint64_t part = 1, whole = 2;
};
constexpr Fraction kQuarter{1, 4}, kHalf{1, 2}, kThreeQuarters{3, 4};

/// The rank, from 1, of a quantile among `count` values: the smallest of them that at least the fraction of
/// all values do not exceed (the inverse of the empirical distribution function; definition 1 of Hyndman and
/// Fan, Sample quantiles in statistical packages, American Statistician 50, 1996). `count` must not be 0.
[[nodiscard]] constexpr std::uint64_t quantile_rank(std::uint64_t count, Fraction fraction) {
  return std::max<std::uint64_t>(1, (count * fraction.part + fraction.whole - 1) / fraction.whole);
}

/// The quantile of values in any order; reorders them. Nothing if there are none. O(values).
template <class T>
std::optional<T> quantile_of(std::vector<T>& values, Fraction fraction) {
  if (values.empty()) return std::nullopt;
  const auto place = values.begin() + static_cast<std::ptrdiff_t>(quantile_rank(values.size(), fraction) - 1);
  std::nth_element(values.begin(), place, values.end());
  return *place;
}

template <class T>
struct Quartiles {
  T lower, median, upper;
};

/// The same quantiles as quantile_of, in two thirds of the time. There must be a value. O(values).
template <class T>
Quartiles<T> quartiles_of(std::vector<T>& values) {
  const auto place = [&](Fraction fraction) {
    return values.begin() + static_cast<std::ptrdiff_t>(quantile_rank(values.size(), fraction) - 1);
  };
  const auto lower = place(kQuarter), median = place(kHalf), upper = place(kThreeQuarters);
  std::nth_element(values.begin(), median, values.end());
  if (lower != median) std::nth_element(values.begin(), lower, median);
  if (upper != median) std::nth_element(median + 1, upper, values.end());
  return {*lower, *median, *upper};
}

/// The quantile of values counted by value: counts[v] of them are v. Nothing if there are none.
template <class Count>
std::optional<std::int64_t> quantile_of_counts(const std::vector<Count>& counts, Fraction fraction) {
  std::uint64_t all = 0;
  for (const Count count : counts) all += static_cast<std::uint64_t>(count);
  if (all == 0) return std::nullopt;
  std::uint64_t rest = quantile_rank(all, fraction);
  std::size_t value = 0;
  while (static_cast<std::uint64_t>(counts[value]) < rest)
    rest -= static_cast<std::uint64_t>(counts[value++]);
  return static_cast<std::int64_t>(value);
}

}  // namespace pear::statistics
