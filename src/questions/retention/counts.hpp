// Customers, orders and amounts by cohort and by period since the first order.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "analysis/question_input.hpp"
#include "base/decimal.hpp"
#include "base/error.hpp"
#include "questions/retention/options.hpp"

namespace pear::retention {

/// One period of a cohort, of the customers for whom it is over.
struct Cell {
  std::uint64_t customers = 0;
  std::uint64_t ordered = 0;        ///< of these, with an order in the period
  std::uint64_t ordered_again = 0;  ///< with a second order by the end of the period
  std::uint64_t orders = 0;         ///< in the period
  DecimalSum amount;                ///< in the period, net of returns
  DecimalSum amount_so_far;         ///< from the first order to the end of the period
};

struct Cohort {
  std::string label;
  std::uint64_t customers = 0;
  std::vector<Cell> cells;  ///< by period; only those that are finished
  Date begins = {};         ///< the first day of its first customer
};

struct Counts {
  Options options;
  analysis::CustomerGroups groups;  ///< for cohorts by columns
  std::vector<Cohort> cohorts;      ///< in order; those without customers are left out, except between times
  Cohort all;                       ///< of each period, the cohorts that have finished it
  std::uint64_t without_order = 0;  ///< customers with returns only
  Date data_begin, data_end;
  bool is_sample = false;  ///< of the shop's customers: shares have intervals

  [[nodiscard]] bool is_time() const { return options.cohort != CohortKind::column; }
  [[nodiscard]] std::size_t periods() const { return all.cells.size(); }
  [[nodiscard]] std::string cohort_noun() const;  ///< "month of the first order", "region"
};

/// A period of a cohort of time is finished when it is over for all of its customers; of other cohorts, each
/// period counts the customers for whom it is over. Errors: those of group_customers; usage, for more than
/// 400 periods. O(orders + customers x periods), on all threads.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::retention
