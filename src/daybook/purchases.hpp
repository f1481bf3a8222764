// What counts as a purchase (design, section 8). Every question uses this definition.
#pragma once

#include <cstdint>
#include <span>

#include "daybook/daybook.hpp"

namespace pear::daybook {

/// A view of a daybook that knows returns and fees. Cheap to make; safe to use from many threads.
class Purchases {
 public:
  explicit Purchases(const Daybook& daybook) : daybook_(daybook), is_return_(daybook.return_flags()) {
    if (const Column* fees = daybook.find(role::kIsFee)) is_fee_ = std::get<FlagValues>(fees->values).flags;
  }

  [[nodiscard]] bool is_return(std::uint32_t line) const { return is_return_[line] != 0; }
  /// Freight, deposits: sales, but never a product.
  [[nodiscard]] bool is_fee(std::uint32_t line) const { return !is_fee_.empty() && is_fee_[line] != 0; }
  /// Whether the customer bought the line's product.
  [[nodiscard]] bool is_of_product(std::uint32_t line) const { return !is_return(line) && !is_fee(line); }

  /// An order that contains only returns is not an order.
  [[nodiscard]] bool is_order(std::uint32_t order) const {
    const Run lines = daybook_.lines_of(order);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      if (!is_return(line)) return true;
    }
    return false;
  }

 private:
  const Daybook& daybook_;
  std::span<const std::uint8_t> is_return_, is_fee_;
};

}  // namespace pear::daybook
