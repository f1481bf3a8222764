// Customers going quiet: how long after an order others ordered again.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "statistics/survival.hpp"

namespace pear::frequency {

/// The times from an order to the customer's next, of orders with such a number: "1", "6-10", "11+".
struct OrderBand {
  std::uint32_t from = 1, to = 1;  ///< numbers of the order; the last band has no end
  std::string label;
  std::uint64_t orders = 0;     ///< with such a number
  std::uint64_t next = 0;       ///< of these, followed by another
  std::int64_t usual_days = 0;  ///< 9 of 10 next orders followed within these days
  /// The share that was followed by another order, by day (Kaplan-Meier), until the end of the data.
  std::vector<statistics::SurvivalDay> curve;

  /// The share of customers, silent for so many days after such an order, who ordered again within the next
  /// `horizon` days; nothing if fewer than 20 were observed for so long.
  [[nodiscard]] std::optional<double> share_after(std::int64_t silent_days, std::int64_t horizon) const;
  /// Customers who were observed without an order for longer than so many days.
  [[nodiscard]] std::uint64_t observed_after(std::int64_t silent_days) const;
};

struct QuietCustomer {
  std::uint32_t orders = 0;                 ///< 0: none, and nothing else is known
  std::int64_t silent_days = 0;             ///< from the last order to the end of the data
  std::optional<std::int64_t> median_days;  ///< between orders
  std::int64_t yearly_amount = 0;  ///< units: of the year that ends with the last order, net of returns
  // What follows from the others.
  std::uint32_t band = 0;
  bool is_quiet = false;  ///< silent for longer than the usual days of the band
  /// If quiet, the yearly amount times the share of such customers who order again within the horizon (0 if
  /// it is unknown), rounded to cents; otherwise 0. Units.
  std::int64_t at_stake = 0;
};

struct QuietCustomers {
  std::int64_t horizon = 90;  ///< days
  std::vector<OrderBand> bands;
  std::vector<QuietCustomer> customers;  ///< by customer
};

/// The days from orders to the next ones, or to the end of the data, by number of days.
struct WaitingTimes {
  std::vector<std::uint32_t> next, ended;
  std::uint64_t all = 0, followed = 0;

  void add(std::size_t days, bool is_last, std::uint32_t orders = 1);
};

/// The numbers of an order that are counted together, by the last of them; 0: no end.
constexpr std::array<std::uint32_t, 8> kOrderNumbers = {1, 2, 3, 4, 5, 10, 20, 0};
/// None yet, for waits of up to so many days.
[[nodiscard]] std::vector<WaitingTimes> no_waiting_times(std::size_t most_days);
/// Completes customers from the waiting times of all, by place in kOrderNumbers. See find_quiet_customers.
[[nodiscard]] QuietCustomers quiet_customers_of(std::vector<WaitingTimes> times,
                                                std::vector<QuietCustomer> customers, std::int64_t horizon);

/// Days up to the last order whose amounts are a customer's yearly amount.
constexpr std::int32_t kYear = 365;

/// Bands of the number of orders (1 to 5, 6-10, 11-20, 21+), each with at least 100 next orders: smaller ones
/// are added to the one before. Uses all selected orders. O(orders).
[[nodiscard]] QuietCustomers find_quiet_customers(const analysis::QuestionInput& input, std::int64_t horizon);

}  // namespace pear::frequency
