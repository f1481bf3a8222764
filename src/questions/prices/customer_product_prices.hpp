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

/// What a customer bought of a product, returns left out. Money and pieces in units of Decimal.
struct CustomerProductPrice {
  std::uint32_t product, customer, orders;
  std::int64_t quantity;         ///< above 0
  std::int64_t amount;           ///< of these pieces
  std::int64_t lowest, highest;  ///< that a line came to by the piece
};

/// Pieces that have a list price.
struct Listed {
  std::int64_t quantity = 0, amount = 0;
  Int128 value = 0;  ///< at list price, in units of units of Decimal
  std::int64_t highest = daybook::kEmptyUnits;

  void add(const Listed& other);
  /// By the piece, rounded half away from zero; kEmptyUnits where there is no piece.
  [[nodiscard]] std::int64_t price() const;
  /// What was paid by what the list asks for the same pieces; NaN where that is nothing.
  [[nodiscard]] double index() const;
};

/// All pairs of a product and a customer who bought it, in order of product and then of customer.
class CustomerProductPrices {
 public:
  /// O(lines) on all threads. Lines of returns, and lines without a quantity above 0, tell no price and are
  /// left out. Needs products, quantity, amount and is_return of lines; uses list_price where it is there.
  /// Error: data, where sums leave the range of Decimal.
  [[nodiscard]] static OrError<CustomerProductPrices> gather(const daybook::Daybook& daybook);

  [[nodiscard]] std::span<const CustomerProductPrice> pairs() const { return {pairs_.get(), size()}; }
  [[nodiscard]] const CustomerProductPrice& operator[](std::size_t pair) const { return pairs_[pair]; }
  [[nodiscard]] std::size_t size() const { return begins_.back(); }
  [[nodiscard]] std::uint32_t products() const { return static_cast<std::uint32_t>(begins_.size() - 1); }
  [[nodiscard]] daybook::Run of_product(std::uint32_t product) const {
    return {begins_[product], begins_[product + 1]};
  }
  [[nodiscard]] bool has_list_prices() const { return !listed_.empty() || !list_prices_.empty(); }
  [[nodiscard]] Listed listed(std::size_t pair) const;
  /// Lines that are no returns and have no quantity above 0.
  [[nodiscard]] std::uint64_t left_out() const { return left_out_; }

 private:
  friend class PairGatherer;
  std::vector<std::uint32_t> begins_{0};           ///< by product its first pair, and the end
  std::unique_ptr<CustomerProductPrice[]> pairs_;  ///< each is written once: room that is not cleared before
  std::vector<Listed> listed_;                     ///< by pair, where list prices are those of lines
  std::vector<std::int64_t> list_prices_;          ///< by product, where they are those of products
  std::uint64_t left_out_ = 0;
};

}  // namespace pear::prices
