// Each customer's first order, and the orders after it.
#pragma once

#include <cstdint>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/rows/row_view.hpp"

namespace pear::first {

struct FirstOrders {
  std::uint32_t first = daybook::kNoMember;   ///< the first order; none if there are only returns
  std::uint32_t second = daybook::kNoMember;  ///< the next order
  std::uint32_t orders = 0;
  std::uint32_t later_orders = 0;  ///< after the first, within the days that are followed
  std::int64_t first_amount = 0;   ///< money in units of Decimal, net of returns
  std::int64_t later_amount = 0;   ///< after the first order, within the days that are followed
  std::int64_t amount = 0;         ///< of all lines
  bool followed = false;           ///< all the days that are followed are within the data
  bool is_new = false;             ///< the first order is after the run-in period
  bool too_large = false;          ///< a sum is out of the range of Decimal

  [[nodiscard]] bool has_order() const { return first != daybook::kNoMember; }
  [[nodiscard]] bool ordered_again() const { return later_orders > 0; }
};

/// A third of the days of the data.
[[nodiscard]] std::int64_t longest_run_in(Date data_begin, Date data_end);

/// The days at the start of the data in which a first order does not show that a customer is new, because an
/// earlier one may lie before the data: 9 of 10 orders follow the customer's previous one within so many
/// days. At most longest_run_in(); 0 if nobody would be new otherwise, or nobody ordered on two days.
/// O(orders).
[[nodiscard]] std::int64_t usual_run_in(const daybook::Daybook& daybook, Date data_begin, Date data_end);
/// The same. `gaps`: by days above 0, the orders so many days after the customer's previous one;
/// `latest_first`: the latest day of a first order.
[[nodiscard]] std::int64_t usual_run_in(const std::vector<std::uint64_t>& gaps, Date latest_first,
                                        Date data_begin, Date data_end);

/// By customer. Customers are new from `new_from` on. A customer is followed for days 1 to `follow`, day 1
/// being that of the first order; the data ends on `data_end`. O(lines) on all threads. Needs order_date,
/// is_return and amount.
[[nodiscard]] std::vector<FirstOrders> first_orders_of(const daybook::Daybook& daybook, std::int64_t follow,
                                                       Date new_from, Date data_end);

}  // namespace pear::first
