// The statements of frequency --list: each customer, and who is going quiet.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "pushdown/group_reader.hpp"
#include "pushdown/member_codes.hpp"
#include "pushdown/questions/order_counter.hpp"
#include "questions/frequency/counts.hpp"

namespace pear::pushdown {

/// Borrows all it is made from. Errors: io and data.
class CustomerLister {
 public:
  CustomerLister(const frequency::Options& options, const OrderCounter& counter, const GroupReader& reader,
                 const SelectedLines& lines, const analysis::QuestionInput& input);

  OrError<void> list(frequency::Counts& counts);

 private:
  OrError<void> read_customers(frequency::Counts& counts);

  OrError<void> find_quiet(frequency::Counts& counts) const;

  OrError<void> read_medians(std::vector<frequency::QuietCustomer>& customers) const;

  /// Of the year before each customer's last order, and of returns after it.
  OrError<void> read_amounts(std::vector<frequency::QuietCustomer>& customers) const;

  OrError<void> read_waiting_times(std::vector<frequency::WaitingTimes>& times) const;

  /// Each order of a customer, its number, and the days to the next one or to the end of the data.
  [[nodiscard]] std::string waits() const;

  template <class Use>
  OrError<void> read(const std::string& select, const std::vector<std::string>& columns,
                     const Use& use) const {
    PEAR_ASSIGN(const SqlRows rows, lines_.session.rows(lines_.with, select, columns));
    for (const auto& row : rows) PEAR_TRY(use(row));
    return {};
  }

  /// All orders of a customer, within the window or not.
  struct OrdersOf {
    std::uint32_t customer = 0;
    std::int32_t first = 0, last = 0;
    std::int64_t orders = 0;
  };

  const frequency::Options& options_;
  const OrderCounter& counter_;
  const GroupReader& reader_;
  const Dialect& dialect_;
  const SelectedLines& lines_;
  const analysis::QuestionInput& input_;
  MemberCodes codes_;  ///< of customers
  std::vector<OrdersOf> customers_;
};

}  // namespace pear::pushdown
