// Baskets of the same size and month, of any customer.
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <vector>

#include "questions/baskets/pull.hpp"

namespace pear::baskets {

/// Values of baskets; in units.
struct BasketMoments {
  double baskets = 0, value = 0, squares = 0;

  void add(double value_of_basket) {
    ++baskets;
    value += value_of_basket;
    squares += value_of_basket * value_of_basket;
  }
  [[nodiscard]] BasketMoments without(const BasketMoments& part) const {
    return {baskets - part.baskets, value - part.value, squares - part.squares};
  }
  [[nodiscard]] double mean() const { return value / baskets; }
  [[nodiscard]] double variance_of_mean() const;
};

/// All baskets by size and month, and by size.
class SimilarBaskets {
 public:
  SimilarBaskets(const ValuedBaskets& baskets, const std::vector<std::int64_t>& values);

  /// The cell of baskets of a size that occurs and a month.
  [[nodiscard]] std::uint32_t cell_of(std::uint32_t size, std::uint32_t month) const {
    return static_cast<std::uint32_t>(place_of_size_[size] * months_ + month);
  }

 private:
  friend class OtherBaskets;
  struct Cells {
    std::vector<BasketMoments> of_month, of_size;
  };
  std::size_t months_ = 1;
  std::vector<std::uint32_t> place_of_size_;  ///< of sizes that occur, in order
  Cells all_;
};

/// Those without an item. One object serves one item after another: clear() between them.
class OtherBaskets {
 public:
  static constexpr double kFewest = 5;  ///< that a basket is compared with

  explicit OtherBaskets(const SimilarBaskets& all);

  /// A basket of this cell contains the item.
  void leave_out(std::uint32_t cell, double value);
  /// The mean value of the others of a basket's size in its month; in any month, if there are fewer than 5.
  /// `share`: of which the basket is compared. Nothing if there are fewer than 5 in any month.
  [[nodiscard]] std::optional<double> mean_like(std::uint32_t cell, double share);
  /// Of the sum of all the means x shares that were given.
  [[nodiscard]] double variance() const;
  void clear();

 private:
  struct Use {
    double month = 0, any_month = 0;  ///< shares
  };

  const SimilarBaskets& all_;
  SimilarBaskets::Cells with_;
  std::vector<Use> uses_;  ///< by cell
  std::vector<std::uint32_t> touched_;
};

}  // namespace pear::baskets
