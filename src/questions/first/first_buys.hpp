// When each customer first bought each product, or first bought in each category.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "base/decimal.hpp"
#include "daybook/purchases.hpp"
#include "expression/aggregate/grouping.hpp"

namespace pear::first {

/// A customer's first order with a value of the key.
struct FirstBuy {
  std::uint32_t customer = 0, code = 0, order = 0;
  std::uint32_t line = 0;  ///< the first line of the order with the value
  bool is_only = true;     ///< of these
};

/// The totals of the lines of a first order with the value, without returned ones.
struct BoughtFirst {
  std::int64_t unit_price = 0;  ///< of all of the lines, before discounts; kEmptyUnits if they differ
  DecimalSum quantity, amount;

  /// Amount / quantity; kEmptyCell if that is not known.
  [[nodiscard]] std::int64_t price_paid() const;
};

/// All of them, by customer, then in order of time; those of one order by their values.
class FirstBuys {
 public:
  /// O(lines) on all threads. Needs amount. The daybook and the key must outlive it.
  FirstBuys(const daybook::Daybook& daybook, const expression::GroupKey& key);

  [[nodiscard]] const std::vector<FirstBuy>& rows() const { return rows_; }
  /// Added up from the order's lines whenever it is asked for: stored, the totals would take more memory than
  /// the rows.
  [[nodiscard]] BoughtFirst bought(const FirstBuy& row) const;

 private:
  struct Seen {
    std::uint32_t customer = daybook::kNoMember;
    std::size_t row = 0;
  };
  /// Visits the lines of one of kBlocks parts of the customers, with their code and what was seen of it.
  template <class Visit>
  void walk(std::uint32_t block, const Visit& visit) const;

  const daybook::Daybook& daybook_;
  const expression::GroupKey& key_;
  daybook::Purchases purchases_;
  std::span<const std::int64_t> amounts_, quantities_, prices_;  ///< of lines
  std::vector<FirstBuy> rows_;
};

}  // namespace pear::first
