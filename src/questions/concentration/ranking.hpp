// Members ranked by a figure, and how the figure is distributed over them.
#pragma once

#include <cstdint>
#include <vector>

#include "base/decimal.hpp"

namespace pear::concentration {

struct Ranked {
  std::uint32_t member = 0;
  std::int64_t units = 0;  ///< the figure, in units of Decimal; empty figures count as 0
};

/// Largest first; of equal ones the one with the smaller number.
class Ranking {
 public:
  explicit Ranking(std::vector<Ranked> members);

  [[nodiscard]] const std::vector<Ranked>& members() const { return members_; }
  [[nodiscard]] std::size_t size() const { return members_.size(); }
  /// The sum of all figures above 0: what shares are of.
  [[nodiscard]] const DecimalSum& positive() const { return positive_; }
  [[nodiscard]] std::size_t not_positive() const { return not_positive_; }
  [[nodiscard]] const DecimalSum& negative() const { return negative_; }
  /// Whether any figure is above 0. Otherwise all shares are NaN.
  [[nodiscard]] bool has_total() const { return !running_.empty() && running_.back() > 0; }
  /// The share of the member with this rank, from 0; 0 if its figure is not above 0.
  [[nodiscard]] double share(std::size_t rank) const;
  /// The share of the members up to this rank.
  [[nodiscard]] double cumulative_share(std::size_t rank) const;

  /// The share of the largest `part` of the members: those whose rank is at most part x size, rounded up.
  [[nodiscard]] double share_of_largest(double part) const;
  /// Of share_of_largest, for other members of the same population (Beach and Davidson, Distribution-free
  /// statistical inference with Lorenz curves and income shares, Review of Economic Studies 50, 1983).
  [[nodiscard]] double standard_error_of_largest(double part) const;
  /// How many of the largest have at least this percentage (in units of Decimal) of the total; all if they
  /// never reach it. Exact.
  [[nodiscard]] std::size_t members_for(std::int64_t per_cent) const;
  /// The Gini coefficient: half of the mean difference between two members divided by the mean, 0 if all have
  /// the same and near 1 if one has everything (Gini, Variabilita e mutabilita, 1912). NaN if no figure is
  /// above 0.
  [[nodiscard]] double gini() const;

 private:
  std::vector<Ranked> members_;
  std::vector<Int128> running_;  ///< by rank: the sum of the figures above 0, in units
  DecimalSum positive_, negative_;
  std::size_t not_positive_ = 0;
};

}  // namespace pear::concentration
