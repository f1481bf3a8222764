// What each customer paid for each product.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "base/decimal.hpp"
#include "base/error.hpp"
#include "daybook/daybook.hpp"

namespace pear::prices {

/// What a customer bought of a product, without returns. Money and pieces in units of Decimal.
struct CustomerProductPrice {
  std::uint32_t product, customer, orders;
  std::int64_t quantity;         ///< above 0
  std::int64_t amount;           ///< of these pieces
  std::int64_t lowest, highest;  ///< lowest and highest price per piece of a line
};

/// Pieces that have a list price.
struct Listed {
  std::int64_t quantity = 0, amount = 0;
  Int128 value = 0;  ///< at list price, in units of units of Decimal
  std::int64_t highest = daybook::kEmptyUnits;

  void add(const Listed& other);
  /// Per piece, rounded half away from zero; kEmptyUnits if there is no piece.
  [[nodiscard]] std::int64_t price() const;
  /// The amount paid divided by the list price of the same pieces; NaN if that is 0.
  [[nodiscard]] double index() const;
};

/// All pairs of a product and a customer who bought it, in order of product and then of customer.
class CustomerProductPrices {
 public:
  /// O(lines) on all threads. Lines of returns, and lines without a quantity above 0, have no price and are
  /// left out. Needs products, quantity, amount and is_return of lines; uses list_price if it is there.
  /// Error: data, if sums are out of the range of Decimal.
  [[nodiscard]] static OrError<CustomerProductPrices> gather(const daybook::Daybook& daybook);

  /// Some pairs of a shop with `products` products, that were computed elsewhere; in order of product and
  /// then of customer. `listed` is by pair; empty without list prices.
  [[nodiscard]] static CustomerProductPrices of_pairs(std::uint32_t products,
                                                      const std::vector<CustomerProductPrice>& pairs,
                                                      std::vector<Listed> listed, bool has_list_prices,
                                                      std::uint64_t left_out);

  [[nodiscard]] std::span<const CustomerProductPrice> pairs() const { return {pairs_.get(), size()}; }
  [[nodiscard]] const CustomerProductPrice& operator[](std::size_t pair) const { return pairs_[pair]; }
  [[nodiscard]] std::size_t size() const { return begins_.back(); }
  [[nodiscard]] std::uint32_t products() const { return static_cast<std::uint32_t>(begins_.size() - 1); }
  [[nodiscard]] daybook::Run of_product(std::uint32_t product) const {
    return {begins_[product], begins_[product + 1]};
  }
  /// The pair that a line belongs to; kNoPair if it has no price.
  [[nodiscard]] std::uint32_t pair_of(std::uint32_t line) const { return pair_of_line_[line]; }
  static constexpr std::uint32_t kNoPair = 0xffff'ffff;
  /// Frees what belongs to lines.
  void forget_lines() { pair_of_line_ = {}; }
  [[nodiscard]] bool has_list_prices() const { return has_list_prices_; }
  [[nodiscard]] Listed listed(std::size_t pair) const;
  /// Lines that are not returns and have no quantity above 0.
  [[nodiscard]] std::uint64_t left_out() const { return left_out_; }

 private:
  friend class PairGatherer;
  std::vector<std::uint32_t> begins_{0};  ///< by product its first pair, and the end
  std::unique_ptr<CustomerProductPrice[]>
      pairs_;                              ///< each is written once, so the memory is not cleared first
  std::vector<Listed> listed_;             ///< by pair, if list prices are those of lines
  std::vector<std::int64_t> list_prices_;  ///< by product, if they are those of products
  std::vector<std::uint32_t> pair_of_line_;
  bool has_list_prices_ = false;
  std::uint64_t left_out_ = 0;
};

}  // namespace pear::prices
