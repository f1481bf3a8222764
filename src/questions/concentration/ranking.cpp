#include "questions/concentration/ranking.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include <tbb/parallel_sort.h>

namespace pear::concentration {

Ranking::Ranking(std::vector<Ranked> members) : members_(std::move(members)) {
  tbb::parallel_sort(members_.begin(), members_.end(), [](const Ranked& a, const Ranked& b) {
    return a.units != b.units ? a.units > b.units : a.member < b.member;
  });
  running_.reserve(members_.size());
  Int128 so_far = 0;
  for (const Ranked& each : members_) {
    (each.units > 0 ? positive_ : negative_).add(Decimal::from_units(each.units));
    not_positive_ += each.units > 0 ? 0U : 1U;
    running_.push_back(so_far += std::max<std::int64_t>(0, each.units));
  }
}

double Ranking::share(std::size_t rank) const {
  const std::int64_t units = members_[rank].units;
  if (!has_total()) return std::numeric_limits<double>::quiet_NaN();
  return units <= 0 ? 0 : static_cast<double>(units) / static_cast<double>(running_.back());
}

double Ranking::cumulative_share(std::size_t rank) const {
  if (!has_total()) return std::numeric_limits<double>::quiet_NaN();
  return static_cast<double>(running_[rank]) / static_cast<double>(running_.back());
}

double Ranking::share_of_largest(double part) const {
  const auto count = static_cast<std::size_t>(std::ceil(part * static_cast<double>(size()) - 1e-9));
  return count == 0 ? 0 : cumulative_share(count - 1);
}

double Ranking::standard_error_of_largest(double part) const {
  if (!has_total() || size() < 2) return std::numeric_limits<double>::quiet_NaN();
  const auto n = static_cast<double>(size());
  const auto count = static_cast<std::size_t>(std::ceil(part * n - 1e-9));
  const auto figure = [&](std::size_t rank) {
    return std::max(0.0, static_cast<double>(members_[rank].units));
  };
  const double mean = static_cast<double>(running_.back()) / n, share = share_of_largest(part),
               bound = count == 0 ? figure(0) : figure(count - 1);
  double squares = 0;  // of each member's influence on the share
  for (std::size_t rank = 0; rank < size(); ++rank) {
    const double influence =
        (std::max(0.0, figure(rank) - bound) + part * bound - share * figure(rank)) / mean;
    squares += influence * influence;
  }
  return std::sqrt(squares) / n;
}

std::size_t Ranking::members_for(std::int64_t per_cent) const {
  if (running_.empty() || per_cent <= 0) return 0;
  constexpr Int128 kAll = Int128{100} * Decimal::kScale;
  const auto found = std::partition_point(running_.begin(), running_.end(), [&](Int128 so_far) {
    return so_far * kAll < running_.back() * per_cent;
  });
  return found == running_.end() ? size() : static_cast<std::size_t>(found - running_.begin()) + 1;
}

double Ranking::gini() const {
  const double all = positive_.approximate();
  if (!(all > 0)) return std::numeric_limits<double>::quiet_NaN();
  const auto n = static_cast<double>(size());
  double weighted = 0;  // figures times their rank from below
  for (std::size_t i = 0; i < size(); ++i) {
    if (members_[i].units > 0)
      weighted += static_cast<double>(members_[i].units) / Decimal::kScale * (n - static_cast<double>(i));
  }
  return 2 * weighted / (n * all) - (n + 1) / n;
}

}  // namespace pear::concentration
