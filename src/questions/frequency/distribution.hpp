// A value for each customer, and the distribution of customers over values.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "analysis/customer_groups.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "expression/aggregate/grouped.hpp"
#include "expression/rows/line_view.hpp"
#include "questions/frequency/options.hpp"
#include "questions/frequency/order_counts.hpp"
#include "result/table.hpp"

namespace pear::frequency {

/// A value for each customer: orders, or what --count says.
struct CustomerValues {
  std::string name = "orders";  ///< of its column
  result::Unit unit = result::Unit::count;
  std::vector<std::int64_t> values;    ///< by customer, in the unit's form; kEmptyCell where not counted
  std::vector<std::uint64_t> weights;  ///< customers that an entry of `values` is of; none if it is one each
  std::uint64_t without_value = 0;     ///< customers who would be counted if they had one

  [[nodiscard]] std::uint64_t weight(std::uint32_t customer) const {
    return weights.empty() ? 1 : weights[customer];
  }
  [[nodiscard]] std::int64_t units(std::uint32_t customer) const;  ///< units of Decimal
};

/// The figure of --count. Errors: usage, if it does not fit, or is not a number.
[[nodiscard]] OrError<expression::GroupedExpression> counted_figure(const Options& options,
                                                                    const expression::LineView& lines);

/// Gives the values of a figure their unit and name. `values.values` are in units of Decimal.
void set_unit(const expression::GroupedExpression& figure, const Options& options, CustomerValues& values);

/// Of the lines within the customers' windows. Errors: see ask().
[[nodiscard]] OrError<CustomerValues> customer_values(const analysis::QuestionInput& input,
                                                      const Options& options, const OrderCounts& tallies,
                                                      const expression::LineView& lines);

/// Customers by value, or by band of values: a place is a row of the distribution.
struct Distribution {
  std::vector<std::int64_t> values;  ///< by place, rising; none where there are bands
  std::vector<std::string> labels;   ///< by place: the number, or the band
  std::vector<analysis::ValueBand> bands;
  bool is_banded = false;
  std::string own_bands;                ///< as --bands would give them, if the question formed them itself
  std::size_t different = 0;            ///< values, then
  bool has_outside = false;             ///< the last place is of what is in no band
  std::vector<std::uint32_t> place_of;  ///< by customer; kNoMember where not counted
  std::vector<std::vector<std::uint64_t>> customers;  ///< by group, then by place

  [[nodiscard]] std::size_t places() const { return labels.size(); }
  [[nodiscard]] std::uint64_t all(std::size_t place) const;
};

/// Amounts, and more than 200 different numbers, are grouped into bands even if no option asks for it. Error:
/// internal, for such bands.
[[nodiscard]] OrError<Distribution> distribute(const CustomerValues& values, const Options& options,
                                               const analysis::CustomerGroups& groups);

}  // namespace pear::frequency
